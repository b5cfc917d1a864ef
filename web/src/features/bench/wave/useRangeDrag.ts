import { type MouseEvent, type PointerEvent, useState } from "react";
import type { Mix } from "../../../api/client";
import { type SnapTo, snapped } from "../../../shared/time/timeUnits";
import { frameAt, type View } from "../../../shared/waveform/geometry";
import { between } from "../model";
import { useSession } from "../session";
import type { Listening } from "../sound/useListening";
import { bandAt, type stacked } from "./drawRange";
import { RULER_HEIGHT } from "./paintWave";

const DRAG_PIXELS = 4;

/** A range is dragged open on the waveform, a band is clicked, or the cursor is set. */
export function useRangeDrag(
  mix: Mix,
  view: View | null,
  bands: ReturnType<typeof stacked>,
  snapTo: SnapTo,
  listening: Listening,
) {
  const session = useSession();
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const [scrubbing, setScrubbing] = useState(false);
  const frameOf = (event: { nativeEvent: { offsetX: number } }) =>
    view ? Math.min(mix.frames, Math.max(0, frameAt(view, event.nativeEvent.offsetX))) : 0;
  const placeOf = (event: PointerEvent) => {
    const frame = frameOf(event);
    return event.altKey ? frame : snapped(frame, snapTo);
  };
  const letGo = () => {
    setScrubbing(false);
    listening.scrub.end();
  };
  return {
    dragged: drag && between(drag.from, drag.to, mix.frames),
    handlers: {
      onPointerDown: (event: PointerEvent<HTMLCanvasElement>) => {
        if (event.button !== 0 || !view) return;
        if (event.nativeEvent.offsetY < RULER_HEIGHT) {
          // Along the ruler one hears what lies under the pointer.
          event.currentTarget.setPointerCapture(event.pointerId);
          setScrubbing(true);
          return listening.scrub.move(frameOf(event));
        }
        if (session.bench().ranges.length > 1) {
          const { offsetX, offsetY } = event.nativeEvent;
          const hit = bandAt(bands, view, offsetX, offsetY - RULER_HEIGHT);
          if (hit) return session.chooseRange(hit);
        }
        event.currentTarget.setPointerCapture(event.pointerId);
        const at = placeOf(event);
        setDrag({ from: at, to: at });
      },
      onPointerMove: (event: PointerEvent) => {
        if (scrubbing) listening.scrub.move(frameOf(event));
        else if (drag) setDrag({ ...drag, to: placeOf(event) });
      },
      onPointerUp: (event: PointerEvent) => {
        if (scrubbing) return letGo();
        if (!drag || !view) return;
        const to = placeOf(event);
        const far = Math.abs(to - drag.from) / view.framesPerPixel >= DRAG_PIXELS;
        const next = far && between(drag.from, to, mix.frames);
        setDrag(null);
        if (!next) return session.setCursor(Math.round(drag.from));
        if (event.shiftKey) session.addRange(next.start_frame, next.end_frame);
        else session.setRange({ ...session.range(), ...next });
        session.setCursor(next.start_frame);
      },
      onPointerCancel: letGo,
      onDoubleClick: (event: MouseEvent) => {
        if (view && event.nativeEvent.offsetY >= RULER_HEIGHT) listening.playFrom(frameOf(event));
      },
    },
  };
}
