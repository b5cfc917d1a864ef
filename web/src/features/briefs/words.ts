import type { LevelWish } from "../../api/client";

export const KIND_WORDS: Record<LevelWish["kind"], string> = {
  leave: "left alone",
  peak: "sample peak",
  "true-peak": "true peak",
  loudness: "loudness",
};
export const UNITS = { leave: "", peak: "dBFS", "true-peak": "dBTP", loudness: "LUFS" } as const;

export const DEPTH_WORDS: Record<string, string> = {
  keep: "as the mix has it",
  u8: "8 bits",
  s16: "16 bits",
  s20: "20 bits",
  s24: "24 bits",
  s32: "32 bits",
  f32: "32-bit float",
  f64: "64-bit float",
  lossy: "no depth: lossy",
};

export const MODE_WORDS = { constant: "constant", average: "average", variable: "variable" } as const;
