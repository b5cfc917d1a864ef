/** The visible part of a mix: the frame at the left edge, and how many frames one pixel stands for. */
export interface View {
  readonly start: number;
  readonly framesPerPixel: number;
}

export const TILE_BINS = 1024;
const MOST_PIXELS_PER_FRAME = 24;

export const frameAt = (view: View, x: number): number => view.start + x * view.framesPerPixel;
export const xOf = (view: View, frame: number): number => (frame - view.start) / view.framesPerPixel;

export function wholeView(frames: number, width: number): View {
  return { start: 0, framesPerPixel: Math.max(1 / MOST_PIXELS_PER_FRAME, frames / Math.max(1, width)) };
}

/** Keeps a view inside the mix: never wider than all of it, never past either end. */
export function clampView(view: View, frames: number, width: number): View {
  const widest = Math.max(1 / MOST_PIXELS_PER_FRAME, frames / width);
  const framesPerPixel = Math.min(widest, Math.max(1 / MOST_PIXELS_PER_FRAME, view.framesPerPixel));
  const last = Math.max(0, frames - framesPerPixel * width);
  return { start: Math.min(last, Math.max(0, view.start)), framesPerPixel };
}

/** Zooms by a factor (below 1 is closer) so that the frame under `x` stays where it is. */
export function zoomAt(view: View, factor: number, x: number, frames: number, width: number): View {
  const held = frameAt(view, x);
  const zoomed = clampView({ start: 0, framesPerPixel: view.framesPerPixel * factor }, frames, width);
  return clampView({ ...zoomed, start: held - x * zoomed.framesPerPixel }, frames, width);
}

/** Moves the view only if a frame would otherwise be out of sight. */
export function reveal(view: View, frame: number, frames: number, width: number): View {
  const x = xOf(view, frame);
  if (x >= 0 && x <= width) return view;
  return clampView({ ...view, start: frame - (width * view.framesPerPixel) / 2 }, frames, width);
}

/** The coarsest zoom step that still has at least one bin a pixel: a power of four. */
export function binsFor(framesPerPixel: number, frames: number): number {
  let bins = 1;
  while (bins * 4 <= framesPerPixel && bins * 4 < frames * 4) bins *= 4;
  return bins;
}

const STEPS_S = [
  0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800,
];

/** Ruler ticks at round times, at least `room` pixels apart; decimals enough to tell them apart. */
export function ticks(
  view: View,
  width: number,
  rateHz: number,
  room = 90,
): { frames: number[]; decimals: number } {
  const wanted = (room * view.framesPerPixel) / rateHz;
  const step = STEPS_S.find((candidate) => candidate >= wanted) ?? 3600;
  const first = Math.ceil(view.start / rateHz / step);
  const last = Math.floor(frameAt(view, width) / rateHz / step);
  const frames = [];
  for (let at = first; at <= last; at++) frames.push(Math.round(at * step * rateHz));
  return { frames, decimals: step >= 1 ? 0 : step >= 0.1 ? 1 : step >= 0.01 ? 2 : 3 };
}
