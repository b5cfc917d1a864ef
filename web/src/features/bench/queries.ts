import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { ApiError, api, type Mix, type Pressing } from "../../api/client";
import { type Range, stretchOf } from "./model";

const SETTLE_MS = 150;

/** The value once it has not changed for a moment: a drag asks the server once, not for every pixel. */
function useSettled<T>(value: T): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return settled;
}

export function useTicket(mixId: number, range: Range) {
  const stretch = stretchOf(useSettled(range));
  return useQuery({
    queryKey: ["ticket", mixId, stretch],
    queryFn: () => api.ticket(mixId, stretch),
    placeholderData: keepPreviousData,
  });
}

export function useRangeMeasures(mixId: number, range: Range) {
  const { start, end } = useSettled(range);
  return useQuery({
    queryKey: ["measures", mixId, start, end],
    queryFn: () => api.measures(mixId, start, end),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useLoudness(mixId: number) {
  return useQuery({
    queryKey: ["loudness", mixId],
    queryFn: () => api.loudness(mixId),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** Keeps the range with the mix; gives the sentence when that failed. */
export function useKeptRange(mix: Mix, range: Range): string | null {
  const queries = useQueryClient();
  const settled = useSettled(range);
  const keep = useMutation({
    mutationFn: (next: Range) => api.setRange(mix.id, stretchOf(next)),
    // While the server is away nothing is lost: it is tried again until it is back.
    retry: (_times, error) => error instanceof ApiError && error.code === "server.unreachable",
    retryDelay: 2000,
    onSuccess: (kept) => queries.setQueryData(["mix", mix.id], kept),
  });
  const { mutate } = keep;
  const kept = { start: mix.start_frame, end: mix.end_frame, edges: mix.edges };
  const unchanged = JSON.stringify(kept) === JSON.stringify(settled);
  useEffect(() => {
    if (!unchanged) mutate(settled);
  }, [settled, unchanged, mutate]);
  return keep.error ? `The range could not be kept: ${keep.error.message}` : null;
}

const isUnderWay = (pressing: Pressing | undefined) =>
  pressing?.state === "waiting" || pressing?.state === "running";

/** The newest pressing of a mix, followed while it runs, also when it was begun on another page. */
export function usePressing(mixId: number) {
  const queries = useQueryClient();
  const record = useQuery({
    queryKey: ["pressings"],
    queryFn: api.pressings,
    refetchInterval: (query) => (query.state.data?.some(isUnderWay) ? 250 : false),
  });
  const refresh = () => queries.invalidateQueries({ queryKey: ["pressings"] });
  const begin = useMutation({
    mutationFn: (range: Range) => api.press(mixId, stretchOf(range)),
    onSuccess: refresh,
  });
  const stop = useMutation({ mutationFn: (id: number) => api.cancel(id), onSuccess: refresh });
  const latest = record.data?.find((pressing) => pressing.mix_id === mixId);
  return {
    latest,
    underWay: isUnderWay(latest),
    error: begin.error ?? stop.error,
    press: (range: Range) => {
      if (!begin.isPending && !isUnderWay(latest)) begin.mutate(range);
    },
    cancel: () => latest && stop.mutate(latest.id),
    beginning: begin.isPending,
  };
}

export type PressingControl = ReturnType<typeof usePressing>;
