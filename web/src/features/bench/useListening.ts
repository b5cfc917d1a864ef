import { useEffect, useRef } from "react";
import { useStore } from "zustand";
import { listenUrl, type Mix } from "../../api/client";
import { rememberMix } from "../../shared/lastMix";
import { player } from "../../shared/player";
import type { BenchSession } from "./session";

const EDGE_SECONDS = 4;

/** Hearing the chosen range: all of it from the cursor, its first seconds, its last. */
export function useListening(mix: Mix, session: BenchSession, heardEndOf: () => number) {
  useEffect(() => {
    rememberMix(mix.id);
    return () => player.stop();
  }, [mix.id]);
  const span = EDGE_SECONDS * mix.rate_hz;
  const listen = (what: string, start: number, end: number) => {
    const range = session.range();
    const { heard } = session.store.getState();
    // With every stem off there is nothing to be heard, and that is what is heard.
    if (heard && !heard.length) return player.stop();
    if (end > start) player.play(what, listenUrl(mix.id, range, start, end, heard), start, end, mix.rate_hz);
  };
  const heard = useStore(session.store, (view) => view.heard);
  const again = useRef(listen);
  again.current = listen;
  // What is switched on or off is heard from the place that was reached.
  useEffect(() => {
    const { state } = player;
    const at = player.position();
    if (state.status === "playing" && at !== null) again.current(state.what, Math.round(at), state.endFrame);
  }, [heard]);
  return {
    playRange: () => {
      if (player.state.status === "playing") return player.stop();
      const { start_frame: start } = session.range();
      const { cursor } = session.store.getState();
      const end = heardEndOf();
      listen("range", cursor >= start && cursor < end ? cursor : start, end);
    },
    hearStart: () => {
      const { start_frame: start } = session.range();
      listen("start", start, Math.min(heardEndOf(), start + span));
    },
    hearEnd: () => {
      const end = heardEndOf();
      listen("end", Math.max(session.range().start_frame, end - span), end);
    },
  };
}

export type Listening = ReturnType<typeof useListening>;
