import type { DeskVoice } from "../../../api/client";

export type Hearing = "whole" | "difference" | "last-bits";
/**
 * Level matching of sources: each unchanged, all as loud as the quietest of them, or as players
 * normalise them.
 */
export type Levels = "as-it-is" | "matched" | number;

export interface Choice {
  readonly slot: number;
  readonly hearing: Hearing;
  readonly differenceDb: number;
  readonly bitsDb: number;
  readonly levels: Levels;
}

export const FIRST_CHOICE: Choice = {
  slot: 0,
  hearing: "whole",
  differenceDb: 24,
  bitsDb: 60,
  levels: "matched",
};
/** Doublings, so that nothing is rounded: 6.02 dB each, called 6. */
export const MAGNIFIED_DB = [0, 6, 12, 18, 24, 30, 36, 42, 48, 60, 72, 84, 96];

const linear = (db: number) => 10 ** (db / 20);
const doublings = (db: number) => 2 ** Math.round(db / 6);

/** Gain of a source for the chosen level matching, in dB. */
export function levelDb(voices: readonly DeskVoice[], slot: number, levels: Levels): number {
  const voice = voices[slot];
  if (!voice || levels === "as-it-is") return 0;
  if (levels !== "matched") return voice.loudness_lufs === null ? 0 : levels - voice.loudness_lufs;
  // Only ever turned down, so that nothing clips.
  return Math.min(...voices.map((one) => one.louder_db)) - voice.louder_db;
}

/** The weight of every source, and whether the sum needs a limiter. */
export function weightsOf(
  voices: readonly DeskVoice[],
  choice: Choice,
): { readonly weights: number[]; readonly guarded: boolean } {
  const { slot, hearing, levels } = choice;
  const weights = voices.map(() => 0);
  const voice = voices[slot];
  if (!voice) return { weights, guarded: false };
  if (hearing === "difference") {
    const times = doublings(choice.differenceDb);
    // The mix as loud as the press made it, less the file. Of the mix itself nothing is left.
    weights[0] = linear(voice.gain_db) * times;
    weights[slot] = (slot === 0 ? (weights[0] ?? 0) : 0) - times;
    return { weights, guarded: true };
  }
  const db = levelDb(voices, slot, levels);
  if (hearing === "last-bits") {
    weights[slot] = doublings(choice.bitsDb);
    return { weights, guarded: true };
  }
  weights[slot] = db === 0 ? 1 : linear(db);
  return { weights, guarded: db > 0 };
}
