import type { Bar } from "../../../api/client";
import { clock } from "../../../shared/text/format";
import {
  barIndex,
  beatFrames,
  CD_FRAMES_PER_SECOND,
  printCd,
  type Unit,
} from "../../../shared/time/timeUnits";
import { frameAt, ticks, type View } from "../../../shared/waveform/geometry";

export interface Tick {
  readonly frame: number;
  readonly label: string;
}

const ROOM = 84;
const CD_STEPS = [1, 5, 15, 25, 75, 150, 375, 750, 1125, 2250, 4500, 9000, 22_500, 45_000];
const STEPS_SMP = [1, 2, 5];

/** Marks of the ruler in the chosen unit, far enough apart to be read. */
export function rulerTicks(
  unit: Unit,
  view: View,
  width: number,
  rateHz: number,
  bars: readonly Bar[],
): Tick[] {
  if (unit === "bars" && bars.length) return barTicks(view, width, bars);
  if (unit === "cd") return cdTicks(view, width, rateHz);
  if (unit === "samples") return sampleTicks(view, width);
  const { frames, decimals } = ticks(view, width, rateHz);
  return frames.map((frame) => ({ frame, label: clock(frame, rateHz, decimals) }));
}

function barTicks(view: View, width: number, bars: readonly Bar[]): Tick[] {
  const first = Math.max(0, barIndex(bars, view.start));
  const last = barIndex(bars, frameAt(view, width));
  const shown = Math.max(1, last - first + 1);
  const room = width / shown;
  let every = 1;
  while (room * every < ROOM / 2) every *= 2;
  const found: Tick[] = [];
  for (let index = Math.ceil(first / every) * every; index <= last; index += every) {
    const bar = bars[index];
    if (!bar) continue;
    found.push({ frame: bar.frame, label: String(index + 1) });
    if (room < ROOM * bar.beats * 0.6) continue;
    for (const [beat, frame] of beatFrames(bars, index).entries()) {
      if (beat) found.push({ frame, label: `${index + 1}|${beat + 1}` });
    }
  }
  return found;
}

function cdTicks(view: View, width: number, rateHz: number): Tick[] {
  const unit = rateHz / CD_FRAMES_PER_SECOND;
  const wanted = (ROOM * view.framesPerPixel) / unit;
  const step = (CD_STEPS.find((one) => one >= wanted) ?? 90_000) * unit;
  return evenly(view, width, step, (frame) => printCd(frame, rateHz));
}

function sampleTicks(view: View, width: number): Tick[] {
  const wanted = ROOM * view.framesPerPixel;
  const power = 10 ** Math.floor(Math.log10(Math.max(1, wanted)));
  const step = (STEPS_SMP.find((one) => one * power >= wanted) ?? 10) * power;
  return evenly(view, width, step, (frame) => frame.toLocaleString("en-GB"));
}

function evenly(view: View, width: number, step: number, label: (frame: number) => string): Tick[] {
  const found: Tick[] = [];
  const last = Math.floor(frameAt(view, width) / step);
  for (let at = Math.ceil(view.start / step); at <= last; at++) {
    const frame = Math.round(at * step);
    found.push({ frame, label: label(frame) });
  }
  return found;
}
