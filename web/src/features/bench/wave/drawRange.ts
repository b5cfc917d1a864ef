import type { LevelTrial } from "../../../api/client";
import type { Colours, Scene } from "../../../shared/waveform/draw";
import { frameAt, type View, xOf } from "../../../shared/waveform/geometry";
import { fadeGain, type Range } from "../model";
import { lookColour, lookPattern } from "./looks";

export const LOUDEST_LUFS = 0;
export const QUIETEST_LUFS = -48;

/** Momentary loudness of the whole mix, from −48 LUFS at the bottom to 0 at the top. */
export function drawLoudness(
  pen: CanvasRenderingContext2D,
  width: number,
  height: number,
  scene: Scene,
  view: View,
  curve: Float32Array,
  colours: Colours,
): void {
  pen.strokeStyle = colours.loudness;
  pen.lineWidth = 1.5;
  pen.beginPath();
  let drawing = false;
  for (let x = 0; x <= width; x++) {
    const at = Math.floor((frameAt(view, x) / scene.frames) * curve.length);
    const value = curve[Math.min(curve.length - 1, Math.max(0, at))];
    if (value === undefined || Number.isNaN(value)) {
      drawing = false;
      continue;
    }
    const share =
      (Math.max(QUIETEST_LUFS, Math.min(LOUDEST_LUFS, value)) - QUIETEST_LUFS) /
      (LOUDEST_LUFS - QUIETEST_LUFS);
    const y = height - share * height;
    if (drawing) pen.lineTo(x, y);
    else pen.moveTo(x, y);
    drawing = true;
  }
  pen.stroke();
}

/** Fades as curves from nothing at the bottom to full at the top, and the tail that is heard after the end. */
export function drawEdges(
  pen: CanvasRenderingContext2D,
  height: number,
  rateHz: number,
  view: View,
  range: Range,
  heardEnd: number,
  colours: Colours,
): void {
  const { edges } = range;
  pen.strokeStyle = colours.edge;
  pen.lineWidth = 1.8;
  const fade = (from: number, to: number, gain: (share: number) => number) => {
    if (to <= from) return;
    pen.beginPath();
    for (let step = 0; step <= 48; step++) {
      const share = step / 48;
      pen.lineTo(xOf(view, from + (to - from) * share), height - gain(share) * height);
    }
    pen.stroke();
  };
  const inFrames = Math.min(edges.fade_in_s * rateHz, heardEnd - range.start_frame);
  const outFrames = Math.min(edges.fade_out_s * rateHz, heardEnd - range.start_frame);
  fade(range.start_frame, range.start_frame + inFrames, (share) => fadeGain(edges.fade_in_curve, share));
  fade(heardEnd - outFrames, heardEnd, (share) => fadeGain(edges.fade_out_curve, 1 - share));
  if (heardEnd <= range.end_frame) return;
  const from = xOf(view, range.end_frame);
  const to = xOf(view, heardEnd);
  pen.save();
  pen.globalAlpha = 0.14;
  pen.fillStyle = colours.edge;
  pen.fillRect(from, 0, to - from, height);
  pen.restore();
  pen.setLineDash([5, 4]);
  pen.beginPath();
  pen.moveTo(to, 0);
  pen.lineTo(to, height);
  pen.stroke();
  pen.setLineDash([]);
}

const TRUE_PEAK_BIN = 8192;

/** Where the signal rises above full scale between its samples: small teeth along the upper edge. */
export function drawTruePeaks(
  pen: CanvasRenderingContext2D,
  width: number,
  top: number,
  view: View,
  peaks: Float32Array,
  colours: Colours,
): void {
  pen.fillStyle = colours.over;
  let drawnTo = -1;
  const first = Math.max(0, Math.floor(view.start / TRUE_PEAK_BIN));
  const last = Math.min(peaks.length - 1, Math.ceil(frameAt(view, width) / TRUE_PEAK_BIN));
  for (let bin = first; bin <= last; bin++) {
    if ((peaks[bin] ?? 0) <= 1) continue;
    const x = Math.round(xOf(view, (bin + 0.5) * TRUE_PEAK_BIN));
    if (x <= drawnTo) continue;
    pen.beginPath();
    pen.moveTo(x - 3, top);
    pen.lineTo(x + 3, top);
    pen.lineTo(x, top + 6);
    pen.fill();
    drawnTo = x + 2;
  }
}

const REDUCTION_PIXELS_PER_DB = 8;

/** How far a limiter turns down, hanging from the upper edge: eight pixels a decibel. */
export function drawReduction(
  pen: CanvasRenderingContext2D,
  width: number,
  view: View,
  trial: LevelTrial,
  colours: Colours,
): void {
  pen.fillStyle = colours.edge;
  for (let x = 0; x < width; x++) {
    const first = Math.floor((frameAt(view, x) - trial.start_frame) / trial.frames_per_bin);
    const last = Math.floor((frameAt(view, x + 1) - trial.start_frame) / trial.frames_per_bin);
    let least = 0;
    for (let bin = Math.max(0, first); bin <= last; bin++)
      least = Math.min(least, trial.reduction_db[bin] ?? 0);
    if (least < 0) pen.fillRect(x, 0, 1, -least * REDUCTION_PIXELS_PER_DB);
  }
}

/** Clipped runs of each channel: a mark at the foot of its lane, never narrower than can be seen. */
export function drawClipped(
  pen: CanvasRenderingContext2D,
  width: number,
  height: number,
  channels: number,
  view: View,
  runs: readonly (readonly [number, number, number])[],
  colours: Colours,
): void {
  const lane = height / channels;
  const drawnTo = new Array<number>(channels).fill(-1);
  pen.fillStyle = colours.over;
  for (const [start, frames, channel] of runs) {
    const from = xOf(view, start);
    const to = Math.max(from + 2, xOf(view, start + frames));
    if (to < 0 || from > width || to <= (drawnTo[channel] ?? 0)) continue;
    pen.fillRect(from, lane * (channel + 1) - 4, to - from, 4);
    drawnTo[channel] = to;
  }
}

const BAND_HEIGHT = 9;
const MOST_BANDS = 4;

export interface Band {
  readonly range: Range;
  readonly row: number;
}

/** Ranges laid into rows so that those that overlap lie below each other. */
export function stacked(ranges: readonly Range[]): Band[] {
  const ends: number[] = [];
  return ranges.map((range) => {
    let row = ends.findIndex((end) => end <= range.start_frame);
    if (row < 0) row = Math.min(MOST_BANDS - 1, ends.length);
    ends[row] = Math.max(ends[row] ?? 0, range.end_frame);
    return { range, row };
  });
}

export const bandsHeight = (bands: readonly Band[]): number =>
  bands.reduce((rows, band) => Math.max(rows, band.row + 1), 0) * BAND_HEIGHT;

/** The id of the range whose band lies under a point. */
export function bandAt(bands: readonly Band[], view: View, x: number, y: number): string | null {
  const row = Math.floor(y / BAND_HEIGHT);
  const hit = bands.find(
    (band) =>
      band.row === row && x >= xOf(view, band.range.start_frame) && x <= xOf(view, band.range.end_frame),
  );
  return hit?.range.id ?? null;
}

/** A strip for every range in its colour and pattern; the chosen one is framed. */
export function drawBands(
  pen: CanvasRenderingContext2D,
  canvas: HTMLCanvasElement,
  width: number,
  view: View,
  bands: readonly Band[],
  chosen: string,
): void {
  const ground = getComputedStyle(canvas).getPropertyValue("--sheet").trim();
  for (const { range, row } of bands) {
    const from = Math.max(-4, xOf(view, range.start_frame));
    const to = Math.min(width + 4, xOf(view, range.end_frame));
    if (to <= from) continue;
    const colour = lookColour(canvas, range.look);
    const y = row * BAND_HEIGHT;
    pen.fillStyle = ground;
    pen.fillRect(from, y, to - from, BAND_HEIGHT - 1);
    pen.fillStyle = lookPattern(pen, range.look, colour);
    pen.fillRect(from, y, to - from, BAND_HEIGHT - 1);
    pen.strokeStyle = colour;
    pen.lineWidth = range.id === chosen ? 2 : 1;
    pen.strokeRect(from + 0.5, y + 0.5, to - from - 1, BAND_HEIGHT - 2);
  }
}
