import { useQuery } from "@tanstack/react-query";
import { api, type Capability } from "../../api/client";

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
