import { useEffect, useRef } from "react";
import type { Mode } from "../../app/theme";

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

/** Thin lines at levels in dB, each with its figure at the right. */
export function levelGrid(
  pen: CanvasRenderingContext2D,
  canvas: HTMLCanvasElement,
  width: number,
  levels: number[],
  yOf: (db: number) => number,
  rule: string,
  quiet: string,
): void {
  pen.font = `11px ${getComputedStyle(canvas).fontFamily}`;
  for (const db of levels) {
    pen.fillStyle = rule;
    pen.fillRect(0, Math.round(yOf(db)), width, 1);
    pen.fillStyle = quiet;
    pen.textAlign = "right";
    pen.fillText(`${db === 0 ? "0" : `−${-db}`} dB`, width - 3, yOf(db) - 3);
    pen.textAlign = "left";
  }
}
