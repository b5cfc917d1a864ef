import { useEffect } from "react";
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
    if (end > start) player.play(what, listenUrl(mix.id, range, start, end), start, end, mix.rate_hz);
  };
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
