import type { DeskView, HeldReport } from "../../api/client";
import type { Loop } from "./sound/messages";

export type PassageName = "start" | "loudest" | "quietest" | "most different" | "end";

export interface Passage extends Loop {
  readonly name: PassageName;
}

const PASSAGE_S = 8;

/** What one key goes to, in the order in which it is shown. */
export const PASSAGE_KEYS: readonly (readonly [PassageName, string, string])[] = [
  ["start", "Start", "S"],
  ["loudest", "Loudest", "O"],
  ["quietest", "Quietest", "Q"],
  ["most different", "Most different", "M"],
  ["end", "End", "E"],
];

/**
 * The passages of a listening desk; the most different one is known after the comparison of the
 * selected file with the mix.
 */
export function passagesOf(desk: DeskView, slot: number, report: HeldReport | null): Passage[] {
  const found: Passage[] = desk.passages.map((one) => ({
    name: one.name,
    start: one.start_frame,
    end: one.end_frame,
  }));
  const voice = desk.voices[slot];
  const at = report && voice ? mostDifferentAt(report, voice.rate_hz) : null;
  if (at !== null && voice) {
    const middle = voice.start_frame + at * desk.rate_hz;
    const length = Math.min(desk.frames, PASSAGE_S * desk.rate_hz);
    const start = Math.round(Math.max(0, Math.min(middle - length / 2, desk.frames - length)));
    found.push({ name: "most different", start, end: start + length });
  }
  return found;
}

/** Where a file differs most, in its own seconds: where an ear may notice most, or by the highest sample. */
function mostDifferentAt(report: HeldReport, rateHz: number): number | null {
  const { difference, hearing } = report;
  if (hearing) return hearing.most_s;
  return difference && difference.peak_dbfs !== null ? difference.most_frame / rateHz : null;
}
