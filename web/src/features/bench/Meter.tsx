import { useEffect, useRef } from "react";
import { level } from "../../shared/format";
import { player, usePlayer } from "../../shared/player";
import { coloursOf, prepare } from "../../shared/waveform/draw";

const LOWEST_DB = -60;
const FALL_DB_PER_S = 24;

/** The peaks of what is heard, side by side, from −60 dBFS; the figure is the highest since it began to play. */
export function Meter() {
  const state = usePlayer();
  const canvas = useRef<HTMLCanvasElement>(null);
  const figure = useRef<HTMLSpanElement>(null);
  const playing = state.status === "playing";
  useEffect(() => {
    if (!playing) return;
    let request = 0;
    let last = performance.now();
    let held: number[] = [];
    let most = Number.NEGATIVE_INFINITY;
    const draw = (now: number) => {
      request = requestAnimationFrame(draw);
      const peaks = player.peaks();
      if (!canvas.current || !peaks) return;
      const fallen = ((now - last) / 1000) * FALL_DB_PER_S;
      last = now;
      held = peaks.map((peak, side) =>
        Math.max(20 * Math.log10(peak + 1e-9), (held[side] ?? LOWEST_DB) - fallen),
      );
      most = Math.max(most, ...held);
      const { pen, width, height } = prepare(canvas.current);
      const colours = coloursOf(canvas.current);
      const xOf = (db: number) => Math.max(0, 1 - Math.max(LOWEST_DB, Math.min(0, db)) / LOWEST_DB) * width;
      const thick = height / held.length;
      pen.fillStyle = colours.rule;
      for (const mark of [-48, -36, -24, -12]) pen.fillRect(Math.round(xOf(mark)), 0, 1, height);
      held.forEach((db, side) => {
        pen.fillStyle = db > 0 ? colours.over : colours.wave;
        pen.fillRect(0, side * thick + 1, xOf(db), thick - 2);
      });
      if (figure.current) figure.current.textContent = most > LOWEST_DB ? level(most) : "";
    };
    request = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(request);
  }, [playing]);
  return (
    <span className="meter">
      <canvas ref={canvas} role="img" aria-label="Peak level of what is heard" />
      <span ref={figure} className="meter-figure" data-testid="meter-figure" />
    </span>
  );
}
