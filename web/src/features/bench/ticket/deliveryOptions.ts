import type { Capability, LevelRequest, Settled } from "../../../api/client";

/** All options with their words; the server says which of them a format supports. */

export const DITHERS: { value: Settled["dither"]; label: string }[] = [
  { value: "auto", label: "Automatic" },
  { value: "none", label: "None" },
  { value: "rectangular", label: "Rectangular" },
  { value: "triangular", label: "Triangular" },
  { value: "triangular-high-pass", label: "Triangular, high-pass" },
  { value: "shaped-light", label: "Noise-shaped, light" },
  { value: "shaped-strong", label: "Noise-shaped, strong" },
];

export const ratesOf = (can: Capability | undefined) =>
  (can?.rates_hz ?? []).map((value) => ({ value, label: `${value / 1000} kHz` }));

export const depthsOf = (can: Capability | undefined) =>
  (can?.depths ?? []).map(([value, label]) => ({ value, label }));

export const CHANNELS: { value: Settled["channels"]; label: string }[] = [
  { value: "keep", label: "Same as mix" },
  { value: "stereo", label: "Stereo" },
  { value: "split", label: "Split into two mono files" },
  { value: "mono", label: "Mono sum" },
  { value: "left", label: "Left only" },
  { value: "right", label: "Right only" },
  { value: "swapped", label: "Swap left and right" },
];

export const LEVELS: { value: LevelRequest["kind"]; label: string }[] = [
  { value: "leave", label: "Keep level" },
  { value: "peak", label: "Sample peak to" },
  { value: "true-peak", label: "True peak to" },
  { value: "loudness", label: "Loudness to" },
];

export const FIRST: Record<LevelRequest["kind"], number> = {
  leave: 0,
  peak: -0.3,
  "true-peak": -1,
  loudness: -14,
};

/** The formats in two groups: those that lose nothing, and those that leave something out. */
export function formatGroups(capabilities: readonly Capability[]) {
  const group = (label: string, lossy: boolean) => ({
    label,
    options: capabilities
      .filter((one) => one.lossy === lossy)
      .map((one) => ({ value: one.container, label: one.title })),
  });
  return [group("Lossless", false), group("Lossy", true)];
}
