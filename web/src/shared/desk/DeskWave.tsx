import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Mix } from "../../api/client";
import { clock } from "../text/format";
import type { Mode } from "../theme";
import { coloursOf, drawWave, prepare, sceneOf } from "../waveform/draw";
import { wholeView } from "../waveform/geometry";
import { useTiles } from "../waveform/useTiles";
import type { Loop } from "./sound/messages";
import type { Player, Snapshot } from "./sound/Player";
import type { DeskControl } from "./useDesk";

/** Pixels that a pointer has to travel before it drags: less is a click. */
const DRAG = 4;

/** A player with its timeline, which begins at a frame of the mix. */
export interface Timeline {
  readonly player: Player;
  readonly snapshot: Snapshot;
  readonly frames: number;
  readonly rateHz: number;
  readonly mixFrom: number;
}

export const timelineOf = ({ desk, player, snapshot }: DeskControl): Timeline => ({
  player,
  snapshot,
  frames: desk.frames,
  rateHz: desk.rate_hz,
  mixFrom: -(desk.voices[0]?.start_frame ?? 0),
});

/** The mix along a timeline, with position and loop. */
export function DeskWave({
  timeline,
  mix,
  mode,
  hearStretch,
  paintOver,
}: {
  timeline: Timeline;
  mix: Mix | null;
  mode: Mode;
  hearStretch: (stretch: Loop) => void;
  /** Draws the results of the selected file over it. */
  paintOver?: ((canvas: HTMLCanvasElement) => void) | undefined;
}) {
  const { player, snapshot, frames, rateHz } = timeline;
  const box = useRef<HTMLDivElement>(null);
  const head = useRef<HTMLDivElement>(null);
  const drag = useRef<number | null>(null);
  const [drawn, setDrawn] = useState<Loop | null>(null);
  useEffect(() => {
    let asked = 0;
    const move = () => {
      if (head.current && box.current) {
        const x = (player.place() / frames) * box.current.clientWidth;
        head.current.style.transform = `translateX(${x}px)`;
        if (!player.snapshot().wanted) {
          box.current.setAttribute("aria-valuenow", String(Math.round(player.place() / rateHz)));
          box.current.setAttribute("aria-valuetext", clock(player.place(), rateHz));
        }
      }
      asked = requestAnimationFrame(move);
    };
    move();
    return () => cancelAnimationFrame(asked);
  }, [player, frames, rateHz]);
  const frameOf = (event: PointerEvent<HTMLDivElement>) => {
    const { left, width } = event.currentTarget.getBoundingClientRect();
    return Math.max(0, Math.min(frames, Math.round(((event.clientX - left) / width) * frames)));
  };
  const moved = (event: PointerEvent<HTMLDivElement>) => {
    if (drag.current === null) return null;
    const at = frameOf(event);
    const far = (Math.abs(at - drag.current) / frames) * event.currentTarget.clientWidth > DRAG;
    return far ? { start: Math.min(at, drag.current), end: Math.max(at, drag.current) } : null;
  };
  const ended = (event: PointerEvent<HTMLDivElement>) => {
    const stretch = moved(event);
    if (stretch) hearStretch(stretch);
    else if (drag.current !== null) player.seek(drag.current);
    drag.current = null;
    setDrawn(null);
  };
  const shown = drawn ?? snapshot.loop;
  return (
    <div
      ref={box}
      className="desk-wave"
      role="slider"
      tabIndex={0}
      aria-label="Playback position"
      aria-valuemin={0}
      aria-valuemax={Math.round(frames / rateHz)}
      aria-valuenow={0}
      data-arrows-pass
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        drag.current = frameOf(event);
      }}
      onPointerMove={(event) => setDrawn(moved(event))}
      onPointerUp={ended}
    >
      {mix ? (
        <MixWave timeline={timeline} mix={mix} mode={mode} />
      ) : (
        <p className="quiet">Mix removed from the Shelf.</p>
      )}
      {paintOver && <Over mode={mode} paint={paintOver} />}
      {shown && (
        <div
          className="desk-loop"
          style={{
            left: `${(shown.start / frames) * 100}%`,
            width: `${((shown.end - shown.start) / frames) * 100}%`,
          }}
        />
      )}
      <div ref={head} className="desk-head" />
    </div>
  );
}

function MixWave({ timeline, mix, mode }: { timeline: Timeline; mix: Mix; mode: Mode }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(0);
  const [tiles, version] = useTiles(mix);
  const { frames, mixFrom } = timeline;
  useEffect(() => {
    if (!canvas.current) return;
    const observer = new ResizeObserver(() => setWidth(canvas.current?.clientWidth ?? 0));
    observer.observe(canvas.current);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    if (!canvas.current || !width) return;
    const { pen, height } = prepare(canvas.current);
    const view = { ...wholeView(frames, width), start: mixFrom };
    const scene = sceneOf(mix, { head_silence_frames: 0, tail_silence_frames: 0 }, 0, mix.frames);
    drawWave(pen, width, height, scene, view, tiles, coloursOf(canvas.current));
  }, [mix, mode, tiles, version, width, frames, mixFrom]);
  return <canvas ref={canvas} role="img" aria-label={`Waveform of ${mix.title}`} />;
}

function Over({ mode, paint }: { mode: Mode; paint: (canvas: HTMLCanvasElement) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const observer = new ResizeObserver(() => paint(element));
    observer.observe(element);
    paint(element);
    return () => observer.disconnect();
  }, [paint, mode]);
  return <canvas ref={canvas} aria-hidden />;
}
