import { useEffect, useMemo, useRef } from "react";
import { useStore } from "zustand";
import { listenUrl, type Mix } from "../../../api/client";
import { useLastMix } from "../../../shared/lastMix";
import { useRemembered } from "../../../shared/remembered";
import { player } from "../../../shared/sound/player";
import { Scrub } from "../../../shared/sound/scrub";
import type { BenchSession } from "../session";

const EDGE_SECONDS = 4;
/** A loop is sent for so long at once, as far as the server sends it so often; then it is asked for again. */
const LOOP_SECONDS = 1800;
const MOST_TIMES = 500;

/** Hearing the chosen range: all of it from the cursor, its first seconds, its last, again and again, under a finger. */
export function useListening(
  mix: Mix,
  session: BenchSession,
  heardEndOf: () => number,
  /** The file of the selected delivery, if it is chosen for playback and the server knows its current state. */
  fileOf: () => string,
) {
  const [looped, setLooped] = useRemembered("loop", false);
  const [pressed, setPressed] = useRemembered("hear-delivery", false);
  const pressedOf = () => (pressed ? fileOf() : "");
  useEffect(() => {
    useLastMix.getState().remember(mix.id);
    return () => player.stop();
  }, [mix.id]);
  const span = EDGE_SECONDS * mix.rate_hz;
  const whole = { ...session.defaults.edges };
  const listen = (what: string, start: number, end: number) => {
    const { heard } = session.store.getState();
    // With every stem off, playback is silent.
    if (heard && !heard.length) return player.stop();
    if (end <= start) return;
    const range = session.range();
    const inside = start >= range.start_frame && end <= heardEndOf();
    const file = inside && !heard ? pressedOf() : "";
    const cut = inside ? range : { ...range, start_frame: 0, end_frame: mix.frames, edges: whole };
    const seconds = (end - start) / mix.rate_hz;
    const times = what === "range" && looped ? Math.min(MOST_TIMES, Math.ceil(LOOP_SECONDS / seconds)) : 1;
    player.play(what, listenUrl(mix.id, cut, start, end, heard, times, file), start, end, mix.rate_hz, times);
  };
  const heard = useStore(session.store, (view) => view.heard);
  const again = useRef(listen);
  again.current = listen;
  // A switch of sources continues from the current position.
  useEffect(() => {
    const { state } = player;
    const at = player.position();
    if (state.status !== "playing" || at === null) return;
    again.current(state.what, state.times > 1 ? state.startFrame : Math.round(at), state.endFrame);
  }, [heard]);
  const scrub = useMemo(() => {
    const range = {
      id: "scrub",
      start_frame: 0,
      end_frame: mix.frames,
      name: "",
      look: 0,
      edges: session.defaults.edges,
    };
    const frame = (seconds: number) => Math.min(mix.frames, Math.round(seconds * mix.rate_hz));
    return new Scrub(
      (start, end) => listenUrl(mix.id, range, frame(start), frame(end)),
      mix.frames / mix.rate_hz,
    );
  }, [mix.id, mix.frames, mix.rate_hz, session]);
  const playRange = () => {
    if (player.state.status === "playing") return player.stop();
    const { start_frame: start } = session.range();
    const { cursor } = session.store.getState();
    const end = heardEndOf();
    // A loop is the whole of the range: it would not come round to what lies before the cursor.
    listen("range", !looped && cursor >= start && cursor < end ? cursor : start, end);
  };
  return {
    looped,
    playRange,
    /** Whether the chosen delivery is heard through its level, and not the mix. */
    pressed,
    turnPressed: (next: boolean) => {
      setPressed(next);
      if (player.state.status === "playing") player.stop();
    },
    /** Starts or ends a loop without a stop of the playback. */
    turnLoop: () => {
      setLooped(!looped);
      if (player.state.status === "playing" && player.state.what === "range") player.stop();
    },
    playFrom: (frame: number) => {
      const { start_frame: start } = session.range();
      const end = heardEndOf();
      player.stop();
      session.setCursor(Math.round(frame));
      listen("from", Math.round(frame), frame >= start && frame < end ? end : mix.frames);
    },
    hearStart: () => {
      const { start_frame: start } = session.range();
      listen("start", start, Math.min(heardEndOf(), start + span));
    },
    hearEnd: () => {
      const end = heardEndOf();
      listen("end", Math.max(session.range().start_frame, end - span), end);
    },
    scrub: {
      move: (frame: number) => {
        if (player.state.status === "playing") player.stop();
        session.setCursor(Math.round(frame));
        scrub.move(frame / mix.rate_hz);
      },
      end: () => scrub.end(),
    },
  };
}

export type Listening = ReturnType<typeof useListening>;
