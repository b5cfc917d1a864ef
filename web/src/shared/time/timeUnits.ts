import type { Bar } from "../../api/client";
import { clock } from "../text/format";

export type Unit = "time" | "bars" | "cd" | "samples";

export const CD_FRAMES_PER_SECOND = 75;

/** Index of the last bar that begins at or before a frame; -1 before bar 1. */
export function barIndex(bars: readonly Bar[], frame: number): number {
  let low = 0;
  let high = bars.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((bars[middle]?.frame ?? 0) <= frame) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

function barFrames(bars: readonly Bar[], index: number): number {
  const here = bars[index]?.frame ?? 0;
  const next = bars[index + 1]?.frame;
  if (next !== undefined) return next - here;
  return index > 0 ? here - (bars[index - 1]?.frame ?? 0) : 1;
}

/** Where each beat of a bar lies. */
export function beatFrames(bars: readonly Bar[], index: number): number[] {
  const bar = bars[index];
  if (!bar) return [];
  const length = barFrames(bars, index) / bar.beats;
  return Array.from({ length: bar.beats }, (_, beat) => Math.round(bar.frame + beat * length));
}

/** A frame as `b17.2.5`, bar 17, beat 2 and a half, the form that is typed too; null before bar 1. */
export function printBars(bars: readonly Bar[], frame: number): string | null {
  const index = barIndex(bars, frame);
  const bar = bars[index];
  if (!bar) return null;
  const beats = ((frame - bar.frame) / barFrames(bars, index)) * bar.beats;
  const beat = Math.min(bar.beats - 1, Math.floor(beats + 1e-6));
  const part = Math.min(999, Math.round(1000 * Math.max(0, beats - beat)));
  const fraction = part ? `.${String(part).padStart(3, "0").replace(/0+$/, "")}` : "";
  return `b${index + 1}.${beat + 1}${fraction}`;
}

/** A frame as minutes, seconds and CD frames: the CD frame that contains it. */
export function printCd(frame: number, rateHz: number): string {
  const all = Math.floor((frame * CD_FRAMES_PER_SECOND) / rateHz + 1e-9);
  const seconds = Math.floor(all / CD_FRAMES_PER_SECOND);
  const two = (value: number) => String(value).padStart(2, "0");
  return `${Math.floor(seconds / 60)}:${two(seconds % 60)}:${two(all % CD_FRAMES_PER_SECOND)}cdf`;
}

/** A frame in the chosen unit, in a form that can be typed back. */
export function printPlace(frame: number, unit: Unit, rateHz: number, bars: readonly Bar[]): string {
  if (unit === "samples") return `${Math.round(frame)}smp`;
  if (unit === "cd") return printCd(frame, rateHz);
  return (unit === "bars" && printBars(bars, frame)) || clock(frame, rateHz);
}

export type Snap = "off" | "bars" | "beats" | "markers" | "cd" | "sound" | "zero";

export interface SnapTo {
  readonly snap: Snap;
  readonly bars: readonly Bar[];
  readonly markers: readonly number[];
  readonly sound: readonly number[];
  readonly rateHz: number;
}

const nearest = (places: readonly (number | undefined)[], frame: number): number => {
  let best = frame;
  let least = Number.POSITIVE_INFINITY;
  for (const place of places) {
    if (place === undefined || Math.abs(place - frame) >= least) continue;
    best = place;
    least = Math.abs(place - frame);
  }
  return best;
};

/** The place that a frame snaps to. Zero crossings are found by the server, for they lie in the samples. */
export function snapped(frame: number, to: SnapTo): number {
  const index = barIndex(to.bars, frame);
  const next = to.bars[index + 1]?.frame;
  switch (to.snap) {
    case "bars":
      return nearest([to.bars[index]?.frame, next], frame);
    case "beats":
      return nearest([...beatFrames(to.bars, index), next], frame);
    case "markers":
      return nearest(to.markers, frame);
    case "sound":
      return nearest(to.sound, frame);
    case "cd": {
      const step = to.rateHz / CD_FRAMES_PER_SECOND;
      return Math.round(Math.round(frame / step) * step);
    }
    default:
      return frame;
  }
}
