import { binsFor, frameAt, type View, xOf } from "./geometry";
import type { Tiles } from "./tiles";

/** Everything a picture of a waveform needs; frames count from the start of the mix. */
export interface Scene {
  readonly frames: number;
  readonly channels: number;
  readonly rateHz: number;
  readonly sounding: readonly [number, number];
  readonly range: readonly [number, number];
  /** Height by level instead of by amplitude: the lowest 60 dB below full scale fill the lane. */
  readonly decibels?: boolean;
}

interface Drawn {
  readonly frames: number;
  readonly channels: number;
  readonly rate_hz: number;
}

interface Silences {
  readonly head_silence_frames: number;
  readonly tail_silence_frames: number;
}

/** A mix, its silences before and behind, and a range of it. */
export function sceneOf(mix: Drawn, silences: Silences, start: number, end: number): Scene {
  const { head_silence_frames: head, tail_silence_frames: tail } = silences;
  return {
    frames: mix.frames,
    channels: mix.channels,
    rateHz: mix.rate_hz,
    sounding: [head, Math.max(head, mix.frames - tail)],
    range: [start, end],
  };
}

export interface Colours {
  readonly wave: string;
  readonly body: string;
  readonly outside: string;
  readonly rule: string;
  readonly quiet: string;
  readonly over: string;
  readonly hatch: string;
  readonly loudness: string;
  readonly edge: string;
  readonly ink: string;
  readonly ground: string;
}

export function coloursOf(element: Element): Colours {
  const style = getComputedStyle(element);
  const read = (name: string) => style.getPropertyValue(name).trim();
  return {
    wave: read("--wave"),
    body: read("--wave-body"),
    outside: read("--wave-outside"),
    rule: read("--rule"),
    quiet: read("--quiet"),
    over: read("--brick"),
    hatch: read("--hatch"),
    loudness: read("--quince"),
    edge: read("--plum"),
    ink: read("--ink"),
    ground: read("--sheet"),
  };
}

/** Sizes a canvas for the screen's pixels and gives a context in CSS pixels. */
export function prepare(canvas: HTMLCanvasElement): {
  pen: CanvasRenderingContext2D;
  width: number;
  height: number;
} {
  const ratio = window.devicePixelRatio || 1;
  const width = canvas.clientWidth;
  const height = canvas.clientHeight;
  const wide = Math.round(width * ratio);
  const high = Math.round(height * ratio);
  if (canvas.width !== wide || canvas.height !== high) {
    canvas.width = wide;
    canvas.height = high;
  }
  const pen = canvas.getContext("2d");
  if (!pen) throw new Error("This browser cannot draw on a canvas.");
  pen.setTransform(ratio, 0, 0, ratio, 0, 0);
  pen.clearRect(0, 0, width, height);
  return { pen, width, height };
}

const SCALE = 1.12;
const DECIBELS = 60;

/** A sample as a share of full scale, along the amplitude or along the level. */
const shaped = (value: number, decibels: boolean | undefined) =>
  decibels ? Math.sign(value) * Math.max(0, 1 + (20 * Math.log10(Math.abs(value) + 1e-9)) / DECIBELS) : value;

/** Full scale lies a little inside the lane, so that what rises above it is seen to rise above it. */
const yOf = (value: number, middle: number, half: number) =>
  middle - (Math.max(-SCALE, Math.min(SCALE, value)) / SCALE) * half;

export function drawWave(
  pen: CanvasRenderingContext2D,
  width: number,
  height: number,
  scene: Scene,
  view: View,
  tiles: Tiles,
  colours: Colours,
): void {
  const lane = height / scene.channels;
  for (let channel = 0; channel < scene.channels; channel++) {
    const middle = lane * (channel + 0.5);
    const half = lane / 2 - 3;
    pen.strokeStyle = colours.rule;
    pen.lineWidth = 1;
    pen.setLineDash([2, 4]);
    for (const value of [1, -1]) line(pen, 0, width, yOf(value, middle, half));
    pen.setLineDash([]);
    line(pen, 0, width, middle);
    if (view.framesPerPixel < 1) drawSamples(pen, width, middle, half, channel, scene, view, tiles, colours);
    else drawColumns(pen, width, middle, half, channel, scene, view, tiles, colours);
  }
}

function line(pen: CanvasRenderingContext2D, from: number, to: number, y: number): void {
  pen.beginPath();
  pen.moveTo(from, Math.round(y) + 0.5);
  pen.lineTo(to, Math.round(y) + 0.5);
  pen.stroke();
}

function drawColumns(
  pen: CanvasRenderingContext2D,
  width: number,
  middle: number,
  half: number,
  channel: number,
  scene: Scene,
  view: View,
  tiles: Tiles,
  colours: Colours,
): void {
  const bins = binsFor(view.framesPerPixel, scene.frames);
  for (let x = 0; x < width; x++) {
    const from = frameAt(view, x);
    const to = Math.min(scene.frames, frameAt(view, x + 1));
    if (from >= scene.frames) break;
    const found = tiles.extent(bins, from, to, channel);
    if (!found) continue;
    const inside = from >= scene.range[0] && from < scene.range[1];
    const low = shaped(found.low, scene.decibels);
    const high = shaped(found.high, scene.decibels);
    const top = yOf(high, middle, half);
    pen.fillStyle = inside ? colours.wave : colours.outside;
    pen.fillRect(x, top, 1, Math.max(1, yOf(low, middle, half) - top));
    if (inside) {
      const body = shaped(Math.sqrt(found.power), scene.decibels);
      const bodyTop = yOf(Math.min(high, body), middle, half);
      pen.fillStyle = colours.body;
      pen.fillRect(x, bodyTop, 1, Math.max(0, yOf(Math.max(low, -body), middle, half) - bodyTop));
    }
    if (found.high > 1 || found.low < -1) {
      pen.fillStyle = colours.over;
      if (found.high > 1) pen.fillRect(x - 1, top, 3, yOf(1, middle, half) - top + 2);
      if (found.low < -1)
        pen.fillRect(x - 1, yOf(-1, middle, half) - 2, 3, yOf(low, middle, half) - yOf(-1, middle, half) + 2);
    }
  }
}

function drawSamples(
  pen: CanvasRenderingContext2D,
  width: number,
  middle: number,
  half: number,
  channel: number,
  scene: Scene,
  view: View,
  tiles: Tiles,
  colours: Colours,
): void {
  const first = Math.max(0, Math.floor(view.start) - 1);
  const last = Math.min(scene.frames - 1, Math.ceil(frameAt(view, width)) + 1);
  pen.strokeStyle = colours.wave;
  pen.fillStyle = colours.wave;
  pen.lineWidth = 1.2;
  pen.beginPath();
  const dots: [number, number][] = [];
  for (let frame = first; frame <= last; frame++) {
    const found = tiles.extent(1, frame, frame + 1, channel);
    if (!found) continue;
    const x = xOf(view, frame);
    const y = yOf(shaped((found.low + found.high) / 2, scene.decibels), middle, half);
    pen.lineTo(x, y);
    dots.push([x, y]);
  }
  pen.stroke();
  if (view.framesPerPixel < 1 / 5) {
    for (const [x, y] of dots) pen.fillRect(x - 2, y - 2, 4, 4);
  }
}

/** Slanted lines over measured silence. */
export function hatch(
  pen: CanvasRenderingContext2D,
  from: number,
  to: number,
  height: number,
  colour: string,
): void {
  if (to - from < 1) return;
  pen.save();
  pen.beginPath();
  pen.rect(from, 0, to - from, height);
  pen.clip();
  pen.strokeStyle = colour;
  pen.lineWidth = 1;
  pen.beginPath();
  const shift = ((from % 8) + 8) % 8;
  for (let x = from - shift - height; x < to + 8; x += 8) {
    pen.moveTo(x, height);
    pen.lineTo(x + height, 0);
  }
  pen.stroke();
  pen.restore();
}

export function drawSilence(
  pen: CanvasRenderingContext2D,
  height: number,
  scene: Scene,
  view: View,
  colours: Colours,
  width: number,
): void {
  const [first, last] = scene.sounding;
  const ends: [number, number][] =
    last > first
      ? [
          [0, first],
          [last, scene.frames],
        ]
      : [[0, scene.frames]];
  for (const [from, to] of ends) {
    hatch(pen, Math.max(-8, xOf(view, from)), Math.min(width + 8, xOf(view, to)), height, colours.hatch);
  }
}

export function drawRuler(
  pen: CanvasRenderingContext2D,
  width: number,
  height: number,
  view: View,
  colours: Colours,
  font: string,
  ticks: readonly { readonly frame: number; readonly label: string }[],
): void {
  pen.font = font;
  pen.fillStyle = colours.quiet;
  pen.textBaseline = "middle";
  for (const { frame, label } of ticks) {
    const x = Math.round(xOf(view, frame));
    if (x < -1 || x > width) continue;
    pen.fillRect(x, height - 6, 1, 6);
    pen.fillText(label, x + 4, height / 2);
  }
}
