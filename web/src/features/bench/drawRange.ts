import type { Colours, Scene } from "../../shared/waveform/draw";
import { frameAt, type View, xOf } from "../../shared/waveform/geometry";
import { fadeGain, type Range } from "./model";

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
  const inFrames = Math.min(edges.fade_in_s * rateHz, heardEnd - range.start);
  const outFrames = Math.min(edges.fade_out_s * rateHz, heardEnd - range.start);
  fade(range.start, range.start + inFrames, (share) => fadeGain(edges.fade_in_curve, share));
  fade(heardEnd - outFrames, heardEnd, (share) => fadeGain(edges.fade_out_curve, 1 - share));
  if (heardEnd <= range.end) return;
  const from = xOf(view, range.end);
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
