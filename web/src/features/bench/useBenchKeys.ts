import { useNavigate } from "react-router";
import { api, type Mix, type Row } from "../../api/client";
import { type Command, useCommands } from "../../shared/commands/commands";
import { useSilence } from "../../shared/silence";
import { player } from "../../shared/sound/player";
import { tempoOf } from "../../shared/time/TempoAsk";
import { useTaps } from "../../shared/time/useTaps";
import { nudge, withTempo } from "./model";
import type { PressingControl } from "./queries";
import type { TimingControl } from "./range/useTiming";
import { useSession, useSetOut } from "./session";
import type { Listening } from "./sound/useListening";

/** A range from the cursor on; from the end of the last range where the cursor is at the start of the chosen one. */
export function addRangeHere(mix: Mix, session: ReturnType<typeof useSession>): void {
  const { cursor } = session.store.getState();
  const last = session.bench().ranges.reduce((end, one) => Math.max(end, one.end_frame), 0);
  const inside = cursor > session.range().start_frame && cursor < mix.frames;
  session.addRange(inside ? cursor : last < mix.frames ? last : 0, mix.frames);
}

/** Everything that can be done on the bench and is not the waveform's own: by key, from the palette, on the sheet. */
export function useBenchKeys(
  mix: Mix,
  rows: readonly Row[],
  listening: Listening,
  timing: TimingControl,
  pressing: PressingControl,
): void {
  const session = useSession();
  const go = useNavigate();
  const bench = useSetOut();
  const cursor = () => session.store.getState().cursor;
  const here = () => player.position() ?? cursor();
  const move = (direction: 1 | -1) => (event?: KeyboardEvent) => {
    const at = cursor() + direction * nudge(mix.rate_hz, event?.shiftKey ?? false, event?.altKey ?? false);
    session.setCursor(Math.max(0, Math.min(mix.frames, at)));
  };
  const ranges: Command[] = bench.ranges.map((one) => ({
    name: one.name || (one.start_frame === 0 && one.end_frame === mix.frames ? "Whole mix" : "Range"),
    thing: "range",
    run: () => session.chooseRange(one.id, "range"),
  }));
  const files: Command[] = rows.flatMap((row) => [
    {
      name: row.file_name,
      thing: `delivery, ${row.brief_title}`,
      run: () => session.chooseStation(row, "name"),
    },
    ...row.stations.map((one) => ({
      name: `${one.label}, ${row.file_name}`,
      thing: `station, ${one.kind}`,
      run: () => session.chooseStation(row, one.kind),
    })),
  ]);
  const tap = useTaps(async (bpm) => {
    const { tempo } = session.bench();
    const [first, ...others] = tempo?.changes ?? [];
    if (tempo && first) {
      return session.set(
        withTempo(session.bench(), { ...tempo, changes: [{ ...first, tempo_bpm: bpm }, ...others] }),
      );
    }
    const [hint] = await api.tempoHints(mix.id, bpm).catch(() => []);
    if (hint) session.set(withTempo(session.bench(), tempoOf(hint)));
  });
  useCommands([
    { name: "Play range from cursor / stop", key: " ", run: listening.playRange },
    { name: "Loop on/off", key: "l", run: listening.turnLoop },
    {
      name: "Play on from cursor",
      key: "p",
      run: () => listening.playFrom(here()),
    },
    { name: "Play start", key: "s", run: listening.hearStart },
    { name: "Play end", key: "e", run: listening.hearEnd },
    { name: "Set range start at cursor", key: "[", run: () => timing.setEdge("start", here()) },
    { name: "Set range end at cursor", key: "]", run: () => timing.setEdge("end", here()) },
    {
      name: "Cursor back 10 ms (Shift: 100 ms, Alt: 1 sample)",
      key: "ArrowLeft",
      run: move(-1),
    },
    { name: "Cursor forward 10 ms (Shift: 100 ms, Alt: 1 sample)", key: "ArrowRight", run: move(1) },
    {
      name: "Cursor to range start",
      key: "Home",
      run: () => session.setCursor(session.range().start_frame),
    },
    {
      name: "Cursor to range end",
      key: "End",
      run: () => session.setCursor(session.range().end_frame),
    },
    { name: "Add a marker at cursor", key: "m", run: timing.addMarker },
    { name: "Tap the tempo (at least four times)", key: "t", run: tap },
    { name: "Add a range from cursor", key: "n", run: () => addRangeHere(mix, session) },
    { name: "Add deliveries", key: "d", run: () => session.show({ dialog: "add" }) },
    { name: "Sets of deliveries", run: () => session.show({ dialog: "sets" }) },
    {
      name: "Stems and captures",
      key: "b",
      run: () => session.show({ station: { ...session.store.getState().station, kind: "stems" } }),
    },
    { name: "Previous range", key: "PageUp", run: () => session.nextRange(-1) },
    { name: "Next range", key: "PageDown", run: () => session.nextRange(1) },
    { name: "Undo", key: "mod+z", run: session.undo },
    { name: "Redo", key: "mod+shift+z", run: session.redo },
    { name: "Press", key: "mod+enter", run: () => pressing.press(session.bench()) },
    { name: "Listening desk", run: () => void go(`/desk/${mix.id}`) },
    { name: "Show or hide explanations", run: () => useSilence.getState().turn() },
    { name: "Keyboard shortcuts", key: "?", run: () => session.show({ dialog: "keys" }) },
    ...ranges,
    ...files,
  ]);
}
