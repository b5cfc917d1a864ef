import type { LevelWish } from "../../api/client";

export const KIND_WORDS: Record<LevelWish["kind"], string> = {
  leave: "unchanged",
  peak: "sample peak",
  "true-peak": "true peak",
  loudness: "loudness",
};
export const UNITS = { leave: "", peak: "dBFS", "true-peak": "dBTP", loudness: "LUFS" } as const;

export const MODE_WORDS = { constant: "constant", average: "average", variable: "variable" } as const;
