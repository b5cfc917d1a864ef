import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type LiveSource } from "../../../api/client";
import { playLive } from "../../../shared/sound/liveSound";

/** The live passes of a mix, newest first; the server reports progress. */
export const usePasses = (mixId: number) =>
  useQuery({ queryKey: ["passes", mixId], queryFn: () => api.passes(mixId) });

/** The units of the rack, asked on demand. */
export const useRack = (wanted: boolean) =>
  useQuery({ queryKey: ["rack"], queryFn: api.rack, enabled: wanted, refetchOnMount: "always" });

export function usePassHands(mixId: number) {
  const queries = useQueryClient();
  const refresh = () => {
    for (const key of ["passes", "stems", "ticket"]) void queries.invalidateQueries({ queryKey: [key] });
  };
  const options = { onSuccess: refresh };
  return {
    make: useMutation({ mutationFn: (wish: LiveSource) => api.makeLive(mixId, wish), ...options }),
    begin: useMutation({ mutationFn: (stem: number) => api.beginPass(mixId, stem), ...options }),
    stop: useMutation({ mutationFn: (pass: number) => api.stopPass(pass), ...options }),
  };
}

/** Hearing a pass while it runs. */
export function useLiveSound(pass: number | undefined) {
  const [problem, setProblem] = useState<string | null>(null);
  const [listening, setListening] = useState(false);
  const control = useRef<AbortController | null>(null);
  const stop = () => {
    control.current?.abort();
    control.current = null;
    setListening(false);
  };
  useEffect(() => stop, [pass]);
  const start = () => {
    if (pass === undefined) return;
    const mine = new AbortController();
    control.current = mine;
    setProblem(null);
    setListening(true);
    api
      .hearPass(pass, mine.signal)
      .then((response) => playLive(response, mine.signal))
      .catch((error: Error) => !mine.signal.aborted && setProblem(error.message))
      .finally(() => control.current === mine && setListening(false));
  };
  return { listening, problem, start, stop };
}
