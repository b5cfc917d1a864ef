import { Popover } from "antd";
import { type ReactNode, useEffect, useRef } from "react";
import { player, usePlayer } from "../../../shared/sound/player";
import { level } from "../../../shared/text/format";
import type { Mode } from "../../../shared/theme";
import { coloursOf, prepare } from "../../../shared/waveform/draw";

const LOWEST_DB = -60;
const FALL_DB_PER_S = 24;
const MARKS = [-48, -24, -12];
const SILENT: readonly number[] = [LOWEST_DB, LOWEST_DB];

/**
 * Peaks of the playback over a scale, its loudness and its highest true peak; the scale is there in
 * silence, too.
 */
export function Meter({ mode, children }: { mode: Mode; children: ReactNode }) {
  const state = usePlayer();
  const canvas = useRef<HTMLCanvasElement>(null);
  const figures = useRef<HTMLDivElement>(null);
  const short = useRef<HTMLSpanElement>(null);
  const playing = state.status === "playing";
  useEffect(() => {
    let request = 0;
    let last = performance.now();
    let held = SILENT;
    let most = Number.NEGATIVE_INFINITY;
    const draw = (now: number) => {
      const peaks = player.peaks();
      const fallen = ((now - last) / 1000) * FALL_DB_PER_S;
      last = now;
      held = held.map((db, side) =>
        Math.max(LOWEST_DB, 20 * Math.log10((peaks?.[side] ?? 0) + 1e-9), db - fallen),
      );
      most = Math.max(most, ...held);
      if (canvas.current) drawBars(canvas.current, held);
      const reading = player.reading();
      const texts: Record<string, string> = {
        peak: most > LOWEST_DB ? level(most) : "–",
        momentary: reading?.momentary == null ? "–" : level(reading.momentary, "LUFS"),
        "short-term": reading?.shortTerm == null ? "–" : level(reading.shortTerm, "LUFS"),
        "true-peak": reading?.truePeak == null ? "–" : level(reading.truePeak, "dBTP"),
      };
      for (const one of figures.current?.querySelectorAll<HTMLElement>("dd") ?? []) {
        const text = texts[one.dataset.figure ?? ""] ?? "";
        if (one.textContent !== text) one.textContent = text;
      }
      const loudness = reading?.shortTerm == null ? "–" : level(reading.shortTerm, "LUFS");
      if (short.current && short.current.textContent !== loudness) short.current.textContent = loudness;
      if (playing) request = requestAnimationFrame(draw);
    };
    // Peak hold stays after the stop; the bars are empty then.
    if (playing) request = requestAnimationFrame(draw);
    else if (canvas.current) drawBars(canvas.current, SILENT);
    return () => cancelAnimationFrame(request);
  }, [playing, mode]);
  return (
    <Popover
      trigger="click"
      placement="bottom"
      forceRender
      content={
        <div className="meter-more" ref={figures}>
          <dl>
            <Figure name="Peak" figure="peak" title="Highest sample peak since playback began" />
            <Figure name="Momentary" figure="momentary" title="Momentary loudness (0.4 s)" />
            <Figure name="Short-term" figure="short-term" title="Short-term loudness (3 s)" />
            <Figure name="True peak" figure="true-peak" title="Highest true peak since playback began" />
          </dl>
          {children}
        </div>
      }
    >
      <button type="button" className="meter" aria-label="Meter and volume" title="Meter and volume">
        <canvas ref={canvas} role="img" aria-label="Playback peak level" />
        <span ref={short} data-testid="meter-now">
          –
        </span>
      </button>
    </Popover>
  );
}

function Figure({ name, figure, title }: { name: string; figure: string; title: string }) {
  return (
    <div title={title} className={`meter-${figure}`}>
      <dt>{name}</dt>
      <dd data-figure={figure} data-testid={`meter-${figure}`}>
        –
      </dd>
    </div>
  );
}

function drawBars(canvas: HTMLCanvasElement, held: readonly number[]): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const xOf = (db: number) => Math.max(0, 1 - Math.max(LOWEST_DB, Math.min(0, db)) / LOWEST_DB) * width;
  const thick = height / held.length;
  pen.fillStyle = colours.ground;
  pen.fillRect(0, 0, width, height);
  held.forEach((db, side) => {
    pen.fillStyle = db > 0 ? colours.over : colours.wave;
    pen.fillRect(0, side * thick + 1, xOf(db), thick - 2);
  });
  pen.fillStyle = colours.quiet;
  for (const mark of MARKS) pen.fillRect(Math.round(xOf(mark)), 0, 1, height);
}
