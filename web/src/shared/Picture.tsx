import { useEffect, useRef } from "react";
import type { Mode } from "./theme";
import { coloursOf, prepare } from "./waveform/draw";

/** Draws whenever the drawing or the light changes. */
export function Picture({
  label,
  mode,
  draw,
}: {
  label: string;
  mode: Mode;
  draw: (canvas: HTMLCanvasElement) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const latest = useRef(draw);
  latest.current = draw;
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const observer = new ResizeObserver(() => latest.current(element));
    observer.observe(element);
    latest.current(element);
    return () => observer.disconnect();
  }, [draw, mode]);
  return <canvas ref={canvas} className="picture" role="img" aria-label={label} />;
}

/** Room at the right of a picture for the figures of its lines. */
export const GUTTER = 46;

/** Thin lines at levels in dB, each with its figure in the gutter at the right. */
export function levelGrid(
  pen: CanvasRenderingContext2D,
  canvas: HTMLCanvasElement,
  width: number,
  levels: number[],
  yOf: (db: number) => number,
  rule: string,
  quiet: string,
  unit = "dB",
): void {
  pen.font = `11px ${getComputedStyle(canvas).fontFamily}`;
  for (const db of levels) {
    pen.fillStyle = rule;
    pen.fillRect(0, Math.round(yOf(db)), width - GUTTER, 1);
    pen.fillStyle = quiet;
    pen.textAlign = "right";
    pen.fillText(`${db === 0 ? "0" : db < 0 ? `−${-db}` : `+${db}`} ${unit}`, width - 4, yOf(db) + 4);
    pen.textAlign = "left";
  }
}

/** A line over frequency: points in Hz and dB, drawn `shift` dB higher. */
export interface Curve {
  readonly points: readonly (readonly [number, number])[];
  readonly colour: "wave" | "over" | "outside" | "edge" | "loudness";
  readonly dashed?: boolean;
  readonly shift?: (hz: number) => number;
}

interface SpectraRequest {
  readonly curves: readonly Curve[];
  readonly lastHz: number;
  readonly topDb: number;
  readonly floorDb: number;
  /** The levels that get a line and a figure. */
  readonly levels: number[];
  /** From here on the ground is shaded. */
  readonly shadedFromHz?: number | undefined;
  /** A dotted line where an encoder stops. */
  readonly stopsHz?: number | null;
}

const FIRST_HZ = 20;
const DECADES: readonly [number, string][] = [
  [100, "100 Hz"],
  [1000, "1 k"],
  [10_000, "10 k"],
];

/** Levels over frequency, both logarithmic. */
export function drawSpectra(canvas: HTMLCanvasElement, wish: SpectraRequest): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const { lastHz, topDb, floorDb } = wish;
  const span = Math.log(lastHz / FIRST_HZ);
  const xOf = (hz: number) => (Math.log(Math.max(FIRST_HZ, hz) / FIRST_HZ) / span) * (width - GUTTER);
  const yOf = (db: number) =>
    14 + ((topDb - Math.max(floorDb, Math.min(topDb, db))) / (topDb - floorDb)) * (height - 34);
  if (wish.shadedFromHz !== undefined) {
    pen.fillStyle = colours.rule;
    pen.globalAlpha = 0.6;
    pen.fillRect(xOf(wish.shadedFromHz), 0, width - GUTTER - xOf(wish.shadedFromHz), height - 16);
    pen.globalAlpha = 1;
  }
  levelGrid(pen, canvas, width, wish.levels, yOf, colours.rule, colours.quiet);
  for (const [hz, label] of DECADES) pen.fillText(label, xOf(hz) - 8, height - 4);
  for (const { points, colour, shift, dashed } of wish.curves) {
    pen.setLineDash(dashed ? [5, 4] : []);
    pen.strokeStyle = colours[colour];
    pen.lineWidth = 1.6;
    pen.beginPath();
    for (const [hz, db] of points) if (hz <= lastHz) pen.lineTo(xOf(hz), yOf(db + (shift?.(hz) ?? 0)));
    pen.stroke();
  }
  if (wish.stopsHz) {
    pen.setLineDash([2, 3]);
    pen.strokeStyle = colours.over;
    pen.lineWidth = 1.4;
    pen.beginPath();
    pen.moveTo(xOf(wish.stopsHz), 4);
    pen.lineTo(xOf(wish.stopsHz), height - 16);
    pen.stroke();
  }
  pen.setLineDash([]);
}
