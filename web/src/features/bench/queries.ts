import { keepPreviousData, useMutation, useQueries, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useState } from "react";
import { useStore } from "zustand";
import {
  ApiError,
  api,
  type BenchState,
  type Mix,
  type Pressing,
  type Row,
  type TempoMap,
} from "../../api/client";
import { type Range, sameBench } from "./model";
import type { BenchSession } from "./session";

const SETTLE_MS = 150;

/** The value once it has not changed for a moment: a drag asks the server once, not for every pixel. */
function useSettled<T>(value: T, milliseconds = SETTLE_MS): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), milliseconds);
    return () => clearTimeout(timer);
  }, [value, milliseconds]);
  return settled;
}

export function useTicket(mix: Mix, bench: BenchState) {
  const settled = useSettled(bench);
  return useQuery({
    queryKey: ["ticket", mix.content, settled],
    queryFn: () => api.ticket(mix.id, settled),
    placeholderData: keepPreviousData,
  });
}

/** The level of a delivery as pressed; a measurement is valid until the bench changes. */
export function useLevelTrial(mix: Mix, bench: BenchState) {
  const queries = useQueryClient();
  const [tried, setTried] = useState<BenchState | null>(null);
  const trial = useMutation({
    mutationFn: (line: string) => api.tryLevel(mix.id, bench, line),
    // The result appears on the ticket, too.
    onSuccess: () => queries.invalidateQueries({ queryKey: ["ticket"] }),
  });
  return {
    of: (line: string | undefined) => ({
      result: tried === bench && trial.variables === line ? trial.data : undefined,
      running: trial.isPending,
      error: trial.error?.message,
    }),
    measure: (line: string) => {
      setTried(bench);
      trial.mutate(line);
    },
  };
}

export function useBars(mixId: number, tempo: TempoMap | null) {
  const settled = useSettled(tempo);
  return useQuery({
    queryKey: ["bars", mixId, settled],
    queryFn: () => (settled ? api.bars(mixId, settled) : Promise.resolve([])),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

const forEver = { staleTime: Number.POSITIVE_INFINITY };

export const useDefaults = () => useQuery({ queryKey: ["defaults"], queryFn: api.defaults, ...forEver });

export function useBriefs() {
  return useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
}

export const useTagFields = () => useQuery({ queryKey: ["tag-fields"], queryFn: api.tagFields, ...forEver });

export const useLabelFields = () =>
  useQuery({ queryKey: ["label-fields"], queryFn: api.labelFields, ...forEver });

export const useLabelPatterns = () => useQuery({ queryKey: ["label-patterns"], queryFn: api.labelPatterns });

const REST_MS = 1200;

/**
 * The effect of the deliveries' codecs on this mix: that of the selected delivery at once, and
 * after a pause those whose size is otherwise unknown. Results are kept, here and on the server,
 * until the stations change; the ticket then has the size.
 */
export function useTrials(mix: Mix, bench: BenchState, rows: readonly Row[], wanted: string | null) {
  const queries = useQueryClient();
  const rests = useSettled(bench, REST_MS) === bench;
  const packed = rows.filter((row) => row.size.basis !== "exact");
  const found = useQueries({
    queries: packed.map((row) => ({
      queryKey: [
        "trial",
        mix.content,
        row.id,
        row.settled,
        bench.ranges.find((one) => one.id === row.range_id),
        bench.finish,
      ],
      queryFn: () => api.trial(mix.id, bench, row.id),
      enabled: row.id === wanted || (rests && row.size.basis === "bound"),
      ...forEver,
    })),
  });
  const newest = Math.max(0, ...found.map((one) => one.dataUpdatedAt));
  useEffect(() => {
    if (newest) queries.invalidateQueries({ queryKey: ["ticket"] });
  }, [newest, queries]);
  return new Map(packed.map((row, at) => [row.id, found[at]] as const));
}

export type LevelTrials = ReturnType<typeof useLevelTrial>;
export type CodecTrial = ReturnType<ReturnType<typeof useTrials>["get"]>;

export function useProposals(mixId: number, bench: BenchState, wanted: boolean) {
  return useQuery({
    queryKey: ["proposals", mixId, bench],
    queryFn: () => api.proposals(mixId, bench),
    enabled: wanted,
  });
}

/** From where to where a mix sounds, by the level that its bench takes for silence. */
export function useSounding(mix: Mix, silence: number | null) {
  return useQuery({
    queryKey: ["sounding", mix.content, silence],
    queryFn: () => api.sounding(mix.id, silence),
    placeholderData: keepPreviousData,
    ...forEver,
  });
}

/** What follows the end of a range. */
export function useAfter(mix: Mix, range: Range, silence: number | null) {
  const { end_frame } = useSettled(range);
  return useQuery({
    queryKey: ["after", mix.content, end_frame, silence],
    queryFn: () => api.after(mix.id, end_frame, silence),
    ...forEver,
  }).data;
}

export function useRangeMeasures(mix: Mix, range: Range) {
  const { start_frame: start, end_frame: end } = useSettled(range);
  return useQuery({
    queryKey: ["measures", mix.content, start, end],
    queryFn: () => api.measures(mix.id, start, end),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useRangeTruePeak(mix: Mix, range: Range) {
  const { start_frame: start, end_frame: end } = useSettled(range);
  return useQuery({
    queryKey: ["true-peak", mix.content, start, end],
    queryFn: () => api.truePeak(mix.id, start, end),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useRangeSpectrum(mix: Mix, range: Range) {
  const { start_frame: start, end_frame: end } = useSettled(range);
  return useQuery({
    queryKey: ["spectrum", mix.content, start, end],
    queryFn: () => api.spectrum(mix.id, start, end),
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useClipped(mix: Mix) {
  return useQuery({
    queryKey: ["clipped", mix.content],
    queryFn: () => api.clipped(mix.id),
    enabled: mix.measures.clipped_samples > 0,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useTruePeaks(mix: Mix) {
  return useQuery({
    queryKey: ["true-peaks", mix.content],
    queryFn: () => api.truePeaks(mix.id),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useLoudness(mix: Mix) {
  return useQuery({
    queryKey: ["loudness", mix.content],
    queryFn: () => api.loudness(mix.id),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** Takes in what the server kept of a bench that was sent. */
export function useHold(mix: Mix, session: BenchSession) {
  const queries = useQueryClient();
  return useCallback(
    (stored: Mix, sent: BenchState) => {
      session.sent(sent, stored.bench);
      queries.setQueryData(["mix", mix.id], stored);
    },
    [session, queries, mix.id],
  );
}

/** Keeps the bench with the mix; gives the sentence when that failed. */
export function useKeptBench(mix: Mix, session: BenchSession): string | null {
  const bench = useStore(session.store, (view) => view.history.present);
  const kept = useStore(session.store, (view) => view.kept);
  const settled = useSettled(bench);
  useEffect(() => session.keep(mix.bench), [session, mix.bench]);
  const hold = useHold(mix, session);
  const keep = useMutation({
    mutationFn: (next: BenchState) => api.setBench(mix.id, mix.content, next),
    // While the server is away nothing is lost: it is tried again until it is back.
    retry: (_times, error) => error instanceof ApiError && error.code === "server.unreachable",
    retryDelay: 2000,
    onSuccess: hold,
  });
  const { mutate } = keep;
  const unchanged = sameBench(kept, settled) || settled !== bench;
  useEffect(() => {
    if (!unchanged) mutate(settled);
  }, [settled, unchanged, mutate]);
  // A change just before the page is closed is not saved yet: it is sent now.
  useEffect(() => {
    const leave = () => {
      const { history, kept } = session.store.getState();
      if (sameBench(kept, history.present)) return;
      const sent = history.present;
      api
        .leaveBench(mix.id, mix.content, sent)
        .then((stored) => hold(stored, sent))
        .catch(() => undefined);
    };
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [session, mix.id, hold]);
  return keep.error ? `Could not save the ticket: ${keep.error.message}` : null;
}

const isUnderWay = (pressing: Pressing | undefined) =>
  pressing?.state === "queued" || pressing?.state === "running";

/** The newest pressing of a mix, followed while it runs, also when it was begun on another page. */
export function usePressing(mixId: number) {
  const queries = useQueryClient();
  const newest = useQuery({ queryKey: ["pressings", "of", mixId], queryFn: () => api.pressingOf(mixId) });
  const refresh = () => queries.invalidateQueries({ queryKey: ["pressings"] });
  const begin = useMutation({
    mutationFn: (bench: BenchState) => api.press(mixId, bench),
    onSuccess: refresh,
  });
  const stop = useMutation({ mutationFn: (id: number) => api.cancel(id), onSuccess: refresh });
  const latest = newest.data ?? undefined;
  // New files may have the names of the next ones: names are resolved again.
  const ended = latest && !isUnderWay(latest) ? latest.id : null;
  useEffect(() => {
    if (ended !== null) queries.invalidateQueries({ queryKey: ["ticket"] });
  }, [ended, queries]);
  return {
    latest,
    underWay: isUnderWay(latest),
    error: begin.error ?? stop.error,
    press: (bench: BenchState) => {
      if (!begin.isPending && !isUnderWay(latest)) begin.mutate(bench);
    },
    cancel: () => latest && stop.mutate(latest.id),
    beginning: begin.isPending,
  };
}

export type PressingControl = ReturnType<typeof usePressing>;
