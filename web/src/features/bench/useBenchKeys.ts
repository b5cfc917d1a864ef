import type { Mix } from "../../api/client";
import { useKeys } from "../../shared/keys";
import { player } from "../../shared/player";
import { nudge } from "./model";
import type { PressingControl } from "./queries";
import { useSession } from "./session";
import type { Listening } from "./useListening";
import type { TimingControl } from "./useTiming";

/** A range from the cursor on; from the end of the last range where the cursor is at the start of the chosen one. */
export function addRangeHere(mix: Mix, session: ReturnType<typeof useSession>): void {
  const { cursor } = session.store.getState();
  const last = session.bench().ranges.reduce((end, one) => Math.max(end, one.end_frame), 0);
  const inside = cursor > session.range().start_frame && cursor < mix.frames;
  session.addRange(inside ? cursor : last < mix.frames ? last : 0, mix.frames);
}

/** Every key of the bench that is not the waveform's own. */
export function useBenchKeys(
  mix: Mix,
  listening: Listening,
  timing: TimingControl,
  pressing: PressingControl,
): void {
  const session = useSession();
  const cursor = () => session.store.getState().cursor;
  const here = () => player.position() ?? cursor();
  const move = (event: KeyboardEvent, direction: 1 | -1) => {
    const at = cursor() + direction * nudge(mix.rate_hz, event.shiftKey, event.altKey);
    session.setCursor(Math.max(0, Math.min(mix.frames, at)));
  };
  useKeys({
    " ": listening.playRange,
    s: listening.hearStart,
    e: listening.hearEnd,
    m: timing.addMarker,
    n: () => addRangeHere(mix, session),
    b: () => session.show({ station: { ...session.store.getState().station, kind: "stems" } }),
    d: () => session.show({ dialog: "add" }),
    PageUp: () => session.nextRange(-1),
    PageDown: () => session.nextRange(1),
    "[": () => timing.setEdge("start", here()),
    "]": () => timing.setEdge("end", here()),
    "mod+z": session.undo,
    "mod+shift+z": session.redo,
    "mod+enter": () => pressing.press(session.bench()),
    "?": () => session.show({ dialog: "keys" }),
    ArrowLeft: (event) => move(event, -1),
    ArrowRight: (event) => move(event, 1),
    Home: () => session.setCursor(session.range().start_frame),
    End: () => session.setCursor(session.range().end_frame),
  });
}
