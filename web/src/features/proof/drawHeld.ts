import type { HeldHearing } from "../../api/client";
import { GUTTER, levelGrid } from "../../shared/Picture";
import { coloursOf, prepare } from "../../shared/waveform/draw";

const TOP_DB = 0;
const FLOOR_DB = -120;

/** What differs over time, in dBFS; null is nothing. */
export function drawDifference(canvas: HTMLCanvasElement, curve: readonly (number | null)[]): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const yOf = (db: number) =>
    8 + ((TOP_DB - Math.max(FLOOR_DB, Math.min(TOP_DB, db))) / (TOP_DB - FLOOR_DB)) * (height - 14);
  levelGrid(pen, canvas, width, [-30, -60, -90], yOf, colours.rule, colours.quiet);
  const step = (width - GUTTER) / Math.max(1, curve.length);
  pen.fillStyle = colours.edge;
  curve.forEach((db, at) => {
    if (db === null) return;
    const y = yOf(db);
    pen.fillRect(at * step, y, Math.max(1, step - 0.3), height - 6 - y);
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

/** Time by frequency: the nearer to what is masked, the darker; above it in another colour. */
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
    const seconds = Math.round(hearing.seconds * part);
    const label = `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
    pen.fillText(label, left + (width - left - 4) * part * 0.97 + 10, height - 4);
  }
  pen.textAlign = "left";
}
