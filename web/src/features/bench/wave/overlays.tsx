import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import type { Mix } from "../../../api/client";
import { player, usePlayer } from "../../../shared/sound/player";
import { frameAt, type View, xOf } from "../../../shared/waveform/geometry";
import { nudge } from "../model";

interface LineProps {
  view: View;
  width: number;
  frame: number;
  className: string;
}

export function Line({ view, width, frame, className }: LineProps) {
  const x = xOf(view, frame);
  return x < 0 || x > width ? null : <div className={className} style={{ left: x }} />;
}

interface PlayheadProps {
  view: View;
  width: number;
  follow: (frame: number) => void;
}

export function Playhead({ view, width, follow }: PlayheadProps) {
  const state = usePlayer();
  const [frame, setFrame] = useState<number | null>(null);
  const followed = useRef(follow);
  followed.current = follow;
  useEffect(() => {
    if (state.status !== "playing") return setFrame(null);
    let request = 0;
    const step = () => {
      const now = player.position();
      setFrame(now);
      if (now !== null) followed.current(now);
      request = requestAnimationFrame(step);
    };
    step();
    return () => cancelAnimationFrame(request);
  }, [state]);
  return frame === null ? null : <Line view={view} width={width} frame={frame} className="playhead" />;
}

interface EdgeProps {
  edge: "start" | "end";
  mix: Mix;
  view: View;
  width: number;
  frame: number;
  print: (frame: number) => string;
  snap: (frame: number, free: boolean) => number;
  onFrame: (frame: number, free: boolean) => void;
}

/** An edge of the range: dragged (with Alt freely), or nudged by the arrow keys while it has the focus. */
export function Edge({ edge, mix, view, width, frame, print, snap, onFrame }: EdgeProps) {
  const [dragged, setDragged] = useState<number | null>(null);
  const at = dragged ?? frame;
  const x = xOf(view, at);
  if (x < -1 || x > width + 1) return null;
  const frameUnder = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.parentElement?.getBoundingClientRect();
    if (!box) return at;
    const under = Math.min(mix.frames, Math.max(0, frameAt(view, event.clientX - box.left)));
    return Math.min(mix.frames, Math.max(0, snap(under, event.altKey)));
  };
  const onKey = (event: KeyboardEvent) => {
    const direction = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    if (!direction) return;
    event.preventDefault();
    onFrame(frame + direction * nudge(mix.rate_hz, event.shiftKey, event.altKey), true);
  };
  return (
    <div
      className={`edge edge-${edge}`}
      style={{ left: x }}
      role="slider"
      tabIndex={0}
      aria-label={edge === "start" ? "Start of the range" : "End of the range"}
      aria-valuemin={0}
      aria-valuemax={mix.frames}
      aria-valuenow={Math.round(at)}
      aria-valuetext={print(Math.round(at))}
      onKeyDown={onKey}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setDragged(frameUnder(event));
      }}
      onPointerMove={(event) => dragged !== null && setDragged(frameUnder(event))}
      onPointerUp={(event) => {
        if (dragged === null) return;
        setDragged(null);
        onFrame(frameUnder(event), event.altKey);
      }}
    >
      <span className="edge-tab" />
      {dragged !== null && <span className="edge-time">{print(Math.round(at))}</span>}
    </div>
  );
}
