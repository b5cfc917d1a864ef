import { type KeyboardEvent, type PointerEvent, useState } from "react";
import type { Marker, Mix } from "../../../api/client";
import { clock } from "../../../shared/text/format";
import { frameAt, type View, xOf } from "../../../shared/waveform/geometry";
import { nudge } from "../model";

const MOST_FLAGS = 120;

interface MarkerLaneProps {
  mix: Mix;
  markers: readonly Marker[];
  view: View;
  width: number;
  snap: (frame: number, free: boolean) => number;
  move: (index: number, frame: number) => void;
  remove: (index: number) => void;
  show: (frame: number) => void;
}

/** The markers under the waveform: dragged, nudged by the arrows, removed by Delete. */
export function MarkerLane({ mix, markers, view, width, snap, move, remove, show }: MarkerLaneProps) {
  const [dragged, setDragged] = useState<{ index: number; frame: number } | null>(null);
  const seen = markers
    .map((marker, index) => ({
      marker,
      index,
      x: xOf(view, dragged?.index === index ? dragged.frame : marker.frame),
    }))
    .filter(({ x }) => x >= -1 && x <= width + 1);
  const frameUnder = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.parentElement?.getBoundingClientRect();
    const at = box ? frameAt(view, event.clientX - box.left) : 0;
    return Math.round(Math.min(mix.frames, Math.max(0, snap(at, event.altKey))));
  };
  const onKey = (event: KeyboardEvent, index: number, frame: number) => {
    const direction = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    if (direction) {
      const step = direction * nudge(mix.rate_hz, event.shiftKey, event.altKey);
      move(index, Math.min(mix.frames, Math.max(0, frame + step)));
    } else if (event.key === "Delete" || event.key === "Backspace") remove(index);
    else if (event.key === "Enter") show(frame);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <fieldset className="marker-lane" aria-label="Markers">
      {seen.slice(0, MOST_FLAGS).map(({ marker, index, x }, place) => {
        const room = (seen[place + 1]?.x ?? width) - x;
        return (
          <div
            key={index}
            role="slider"
            tabIndex={0}
            className="marker-flag"
            style={{ left: x, maxWidth: Math.max(10, room - 2) }}
            title={`${marker.name}, ${clock(marker.frame, mix.rate_hz)}`}
            aria-label={`Marker ${marker.name}`}
            aria-valuemin={0}
            aria-valuemax={mix.frames}
            aria-valuenow={marker.frame}
            aria-valuetext={clock(marker.frame, mix.rate_hz)}
            onKeyDown={(event) => onKey(event, index, marker.frame)}
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setDragged({ index, frame: marker.frame });
            }}
            onPointerMove={(event) => dragged && setDragged({ index, frame: frameUnder(event) })}
            onPointerUp={() => {
              if (dragged && dragged.frame !== marker.frame) move(index, dragged.frame);
              else show(marker.frame);
              setDragged(null);
            }}
          >
            {marker.name}
          </div>
        );
      })}
    </fieldset>
  );
}
