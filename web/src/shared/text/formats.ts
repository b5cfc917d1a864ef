import { useQuery } from "@tanstack/react-query";
import { api, type Brief, type Capability } from "../../api/client";
import { rate } from "./format";

/** The table of formats that everything goes by: what each holds, in codes and in words. */
export interface Formats {
  readonly all: readonly Capability[];
  readonly of: (container: string) => Capability | undefined;
  /** A depth in words. */
  readonly depth: (encoding: string) => string;
}

const NONE: readonly Capability[] = [];

export function useFormats(): Formats {
  const all =
    useQuery({
      queryKey: ["capabilities"],
      queryFn: api.capabilities,
      staleTime: Number.POSITIVE_INFINITY,
    }).data ?? NONE;
  const words = new Map<string, string>(all.flatMap((one) => one.depths));
  return {
    all,
    of: (container) => all.find((one) => one.container === container),
    depth: (encoding) => words.get(encoding) ?? "same as mix",
  };
}

/** The format that a brief makes, in a few words: "WAV 44.1 kHz, 16 bits", "MP3 320". */
export function formatWords({ prefer }: Brief, can: Capability | undefined): string {
  if (!can) return "";
  const { kbps, rate_hz, encoding } = prefer;
  const title = can.title.replace(/^Ogg | in MP4$/g, "");
  if (can.lossy) return kbps ? `${title} ${kbps}` : title;
  const depth = can.depths.find(([one]) => one === encoding)?.[1];
  const sampled = typeof rate_hz === "number" ? ` ${rate(rate_hz)}` : ", same rate as mix";
  return `${title}${sampled}${depth ? `, ${depth}` : ""}`;
}
