import type { HeldHearing, HeldLooks } from "../../api/client";
import { GUTTER, levelGrid } from "../../shared/Picture";
import { clock } from "../../shared/text/format";
import { coloursOf, prepare } from "../../shared/waveform/draw";

const TOP_DB = 0;
const FLOOR_DB = -120;
/** For what dither and rounding leave. */
const DEEP_FLOOR_DB = -180;

/** The difference over time, in dBFS; null is none. */
export function drawDifference(canvas: HTMLCanvasElement, curve: readonly (number | null)[]): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const most = Math.max(DEEP_FLOOR_DB, ...curve.map((db) => db ?? DEEP_FLOOR_DB));
  const floor = most < -90 ? DEEP_FLOOR_DB : FLOOR_DB;
  const yOf = (db: number) =>
    8 + ((TOP_DB - Math.max(floor, Math.min(TOP_DB, db))) / (TOP_DB - floor)) * (height - 14);
  const levels = floor === FLOOR_DB ? [-30, -60, -90] : [-60, -96, -144];
  levelGrid(pen, canvas, width, levels, yOf, colours.rule, colours.quiet);
  const step = (width - GUTTER) / Math.max(1, curve.length);
  pen.fillStyle = colours.edge;
  curve.forEach((db, at) => {
    if (db === null) return;
    const y = yOf(db);
    pen.fillRect(at * step, y, Math.max(1, step - 0.3), height - 6 - y);
  });
}

/** The same, small and without figures: the strip of a source. */
export function drawStrip(canvas: HTMLCanvasElement, curve: readonly (number | null)[]): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const step = width / Math.max(1, curve.length);
  pen.fillStyle = colours.rule;
  pen.fillRect(0, height - 1, width, 1);
  pen.fillStyle = colours.edge;
  curve.forEach((db, at) => {
    if (db === null) return;
    const high = ((Math.max(FLOOR_DB, Math.min(TOP_DB, db)) - FLOOR_DB) / (TOP_DB - FLOOR_DB)) * height;
    pen.fillRect(at * step, height - high, Math.max(1, step - 0.3), high);
  });
}

/** Ratios of a comparison, a row a column of time: bytes in base64, as the server packs them. */
export function ratiosOf(hearing: HeldHearing): (column: number, band: number) => number {
  const bytes = Uint8Array.from(atob(hearing.cells), (one) => one.charCodeAt(0));
  return (column, band) => (bytes[column * hearing.bands + band] ?? 0) * hearing.step_db + hearing.floor_db;
}

const MARKS: readonly [number, string][] = [
  [100, "100 Hz"],
  [1000, "1 k"],
  [5000, "5 k"],
  [15_000, "15 k"],
];
const FAINT_DB = -30;

/** Whether any difference is near enough to the masking threshold to be drawn. */
export function comesNear(hearing: HeldHearing): boolean {
  const least = (FAINT_DB - hearing.floor_db) / hearing.step_db;
  return Uint8Array.from(atob(hearing.cells), (one) => one.charCodeAt(0)).some((one) => one > least);
}

/** Time by frequency: darker towards the masking threshold; another colour above it. */
export function drawHearing(canvas: HTMLCanvasElement, hearing: HeldHearing): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const left = 48;
  const foot = 18;
  const across = (width - left - 4) / Math.max(1, hearing.columns);
  const up = (height - foot) / Math.max(1, hearing.bands);
  const ratio = ratiosOf(hearing);
  for (let column = 0; column < hearing.columns; column++) {
    for (let band = 0; band < hearing.bands; band++) {
      const db = ratio(column, band);
      if (db <= FAINT_DB) continue;
      pen.globalAlpha = db > 0 ? Math.min(1, 0.55 + db / 12) : 0.08 + 0.4 * (1 - db / FAINT_DB);
      pen.fillStyle = db > 0 ? colours.loudness : colours.edge;
      pen.fillRect(left + column * across, height - foot - (band + 1) * up, Math.ceil(across), Math.ceil(up));
    }
  }
  pen.globalAlpha = 1;
  pen.fillStyle = colours.quiet;
  pen.font = `11px ${getComputedStyle(canvas).fontFamily}`;
  pen.textAlign = "right";
  for (const [hz, label] of MARKS) {
    const band = hearing.band_hz.findIndex((one) => one >= hz);
    if (band >= 0) pen.fillText(label, left - 6, height - foot - band * up + 4);
  }
  pen.textAlign = "center";
  for (const part of [0, 0.25, 0.5, 0.75, 1]) {
    pen.fillText(
      clock(Math.round(hearing.seconds * part), 1, 0),
      left + (width - left - 4) * part * 0.97 + 10,
      height - 4,
    );
  }
  pen.textAlign = "left";
}

interface OverTime {
  readonly values: readonly (number | null)[];
  readonly colour: "outside" | "wave" | "edge" | "loudness";
  /** Drawn as bars that hang from the top. */
  readonly hangs?: boolean;
}

/** Curves over time between two levels; a missing value interrupts the line. */
export function drawOverTime(
  canvas: HTMLCanvasElement,
  curves: readonly OverTime[],
  scale: {
    readonly top: number;
    readonly floor: number;
    readonly levels: number[];
    readonly unit?: string;
  },
): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const { top, floor } = scale;
  const yOf = (db: number) =>
    6 + ((top - Math.max(floor, Math.min(top, db))) / (top - floor)) * (height - 12);
  const shown = scale.levels.filter((one) => one > floor);
  levelGrid(pen, canvas, width, shown, yOf, colours.rule, colours.quiet, scale.unit);
  for (const { values, colour, hangs } of curves) {
    const step = (width - GUTTER) / Math.max(1, values.length);
    pen.fillStyle = colours[colour];
    pen.strokeStyle = colours[colour];
    pen.lineWidth = 1.5;
    pen.beginPath();
    let drawn = false;
    values.forEach((value, at) => {
      if (hangs) {
        if (value !== null && value < 0) pen.fillRect(at * step, 6, Math.max(1, step), yOf(value) - 6);
      } else if (value === null) drawn = false;
      else {
        if (drawn) pen.lineTo(at * step, yOf(value));
        else pen.moveTo(at * step, yOf(value));
        drawn = true;
      }
    });
    pen.stroke();
  }
}

/** Shares of samples by level, a decibel each: as high as the level is frequent. */
export function drawLevels(canvas: HTMLCanvasElement, looks: HeldLooks): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const { mix, file } = looks.levels;
  const most = Math.max(1e-9, ...mix.map((one) => one ?? 0), ...file.map((one) => one ?? 0));
  const step = (width - GUTTER) / Math.max(1, file.length);
  const yOf = (share: number) => 6 + (1 - share / most) * (height - 26);
  pen.fillStyle = colours.wave;
  pen.globalAlpha = 0.4;
  file.forEach((share, at) => {
    const y = yOf(share ?? 0);
    pen.fillRect(at * step, y, Math.max(1, step - 0.5), height - 20 - y);
  });
  pen.globalAlpha = 1;
  pen.strokeStyle = colours.outside;
  pen.lineWidth = 2;
  pen.beginPath();
  mix.forEach((share, at) => {
    pen.lineTo((at + 0.5) * step, yOf(share ?? 0));
  });
  pen.stroke();
  pen.fillStyle = colours.quiet;
  pen.font = `11px ${getComputedStyle(canvas).fontFamily}`;
  for (const db of [-90, -60, -40, -20, 0]) {
    const x = (db - looks.levels_from_dbfs) * step;
    pen.fillRect(x, height - 20, 1, 4);
    pen.fillText(db ? `−${-db}` : "0 dBFS", x - 8, height - 4);
  }
}

/** The waveform of a file, drawn over that of its mix: where the file begins on a timeline, and how long that is. */
export function drawFileWave(
  canvas: HTMLCanvasElement,
  looks: HeldLooks,
  place: { readonly start: number; readonly frames: number; readonly timeline: number },
): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const bytes = Uint8Array.from(atob(looks.wave), (one) => one.charCodeAt(0));
  const wave = new DataView(bytes.buffer);
  const at = (column: number, channel: number, which: number) =>
    wave.getInt16(((column * looks.channels + channel) * 2 + which) * 2, true) / looks.wave_scale;
  const lane = height / looks.channels;
  const left = (place.start / place.timeline) * width;
  const step = ((place.frames / place.timeline) * width) / looks.columns;
  pen.fillStyle = colours.edge;
  pen.globalAlpha = 0.55;
  for (let channel = 0; channel < looks.channels; channel++) {
    const middle = lane * (channel + 0.5);
    // As the waveform of the mix is drawn: full scale lies a little inside the lane.
    const half = (lane / 2 - 3) / 1.12;
    for (let column = 0; column < looks.columns; column++) {
      const top = middle - Math.min(1.12, at(column, channel, 1)) * half;
      const foot = middle - Math.max(-1.12, at(column, channel, 0)) * half;
      pen.fillRect(left + column * step, top, Math.max(0.6, step), Math.max(1, foot - top));
    }
  }
  pen.globalAlpha = 1;
}
