import type { Loop } from "./messages";

export interface Planned {
  readonly start: number;
  readonly frames: number;
  /** Where the next block begins; null where nothing comes. */
  readonly next: number | null;
  readonly seam: boolean;
}

/** A shorter loop would be heard as a tone, and be asked for more often than it can be brought. */
export const SHORTEST_LOOP_S = 1;

/**
 * The block from a place on, in the order in which it is heard: at the end of a loop comes its start.
 *
 * What would be left of a loop or of the timeline after it is taken along when it is shorter than ``least``.
 */
export function planned(
  at: number,
  wanted: number,
  least: number,
  frames: number,
  loop: Loop | null,
): Planned {
  const inside = loop !== null && at < loop.end;
  const end = inside ? loop.end : frames;
  const left = end - at;
  const taken = left - wanted < least ? left : wanted;
  const ends = taken === left;
  const jump = inside ? loop.start : null;
  return { start: at, frames: taken, next: ends ? jump : at + taken, seam: ends && inside };
}

/** A loop of at least a second, inside the timeline. */
export function fitted(loop: Loop, rateHz: number, frames: number): Loop {
  const length = Math.min(frames, Math.max(loop.end - loop.start, SHORTEST_LOOP_S * rateHz));
  const start = Math.max(0, Math.min(loop.start, frames - length));
  return { start, end: start + length };
}
