/** Taps further apart restart the count. */
const LONGEST_GAP_MS = 2_000;
const LEAST_TAPS = 4;
const MOST_TAPS = 32;

/** The taps that belong together, with one more. */
export function withTap(taps: readonly number[], now: number): number[] {
  const last = taps.at(-1);
  return last !== undefined && now - last < LONGEST_GAP_MS ? [...taps.slice(1 - MOST_TAPS), now] : [now];
}

/** The tempo of some taps, times in milliseconds; null for fewer than four. The middle gap counts: a missed tap does no harm. */
export function bpmOfTaps(taps: readonly number[]): number | null {
  if (taps.length < LEAST_TAPS) return null;
  const gaps = taps.slice(1).map((tap, at) => tap - (taps[at] ?? tap));
  const middle = [...gaps].sort((one, other) => one - other)[gaps.length >> 1] ?? 0;
  // Of the gaps near the middle one the mean is finer.
  const near = gaps.filter((gap) => Math.abs(gap - middle) < 0.25 * middle);
  const mean = near.reduce((sum, gap) => sum + gap, 0) / near.length;
  return Math.round(600_000 / mean) / 10;
}
