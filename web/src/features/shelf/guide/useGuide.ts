import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type BenchState, type Pressing, type Remedy, type TempoMap, upload } from "../../../api/client";
import { useLastMix } from "../../../shared/lastMix";
import { withRemedy } from "../../../shared/remedies";
import { benchFor, type Mended, mend } from "./plan";

const MOST_STEPS = 4;
const ENDED: readonly Pressing["state"][] = ["done", "failed", "cancelled", "interrupted"];

/** Which mix, where to, and what becomes of it: everything that is asked for and known on the way to one file. */
export function useGuide() {
  const queries = useQueryClient();
  const [arrival, setArrival] = useState<string | null>(null);
  const [mixId, setMixId] = useState<number | null>(null);
  const [brief, setBrief] = useState<string | null>(null);
  const [mended, setMended] = useState<readonly Mended[]>([]);
  const [bench, setBench] = useState<BenchState | null>(null);
  const [asIs, setAsIs] = useState(false);

  const sending = useMutation({
    mutationFn: async (wish: File | string) =>
      typeof wish === "string" ? (await api.fetchPath(wish))[0] : await upload(wish, () => undefined),
    onSuccess: (found) => {
      if (found) setArrival(found.id);
      if (found?.mix_id) setMixId(found.mix_id);
    },
  });
  const coming = useQuery({
    queryKey: ["shelf", "arrival", arrival],
    queryFn: () => api.arrival(arrival ?? ""),
    enabled: arrival !== null && mixId === null,
  });
  const came = coming.data?.mix_id;
  useEffect(() => {
    if (came) setMixId(came);
  }, [came]);
  useEffect(() => {
    if (mixId !== null) useLastMix.getState().remember(mixId);
  }, [mixId]);

  const mix = useQuery({
    queryKey: ["mix", mixId],
    queryFn: () => api.mix(mixId ?? 0),
    enabled: mixId !== null,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const defaults = useQuery({
    queryKey: ["defaults"],
    queryFn: api.defaults,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const set = mix.data && defaults.data;
  useEffect(() => {
    setMended([]);
    setBench(set && mix.data && defaults.data && brief ? benchFor(mix.data, brief, defaults.data) : null);
  }, [set, mix.data, defaults.data, brief]);

  const ticket = useQuery({
    queryKey: ["ticket", mixId, bench],
    queryFn: () => api.ticket(mixId ?? 0, bench as BenchState),
    enabled: mixId !== null && bench !== null,
  });
  const row = ticket.data?.rows[0];
  const next = bench && !asIs && mended.length < MOST_STEPS ? mend(bench, row) : null;
  useEffect(() => {
    if (!next) return;
    setBench(next[0]);
    setMended((all) => [...all, next[1]]);
  });

  const begin = useMutation({
    mutationFn: async () => {
      if (mixId === null || !bench || !mix.data) throw new Error("Choose a mix and a brief first.");
      const kept = await api.setBench(mixId, mix.data.content, bench);
      queries.setQueryData(["mix", mixId], kept);
      return api.press(mixId, bench);
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ["pressings"] }),
  });
  const number = begin.data?.id;
  const pressing = useQuery({
    queryKey: ["pressings", number],
    queryFn: () => api.pressing(number ?? 0),
    enabled: number !== undefined,
  });
  const made = pressing.data ?? begin.data;
  return {
    bringIn: sending.mutate,
    sending: sending.isPending || (coming.data?.state === "running" && mixId === null),
    reading: coming.data,
    mix: mix.data,
    chooseMix: (id: number) => {
      setArrival(null);
      setMixId(id);
    },
    otherMix: () => {
      setArrival(null);
      setMixId(null);
      begin.reset();
    },
    brief,
    chooseBrief: (id: string) => {
      setBrief(id);
      setAsIs(false);
      begin.reset();
    },
    row,
    refused: ticket.data?.refused[0],
    settled: !!row && !next && !ticket.isFetching,
    mended,
    leaveAsIs: () => {
      if (!mix.data || !defaults.data || !brief) return;
      setAsIs(true);
      setMended([]);
      setBench(benchFor(mix.data, brief, defaults.data));
    },
    tempo: bench?.tempo ?? null,
    setTempo: (tempo: TempoMap | null) => bench && setBench({ ...bench, tempo }),
    remedy: (one: Remedy) => bench && row && setBench(withRemedy(bench, row, one)),
    write: (field: string, text: string) =>
      bench &&
      setBench({ ...bench, tags: [...bench.tags.filter(([name]) => name !== field), [field, text]] }),
    ticket: ticket.data,
    setFolder: (folder: string) => bench && setBench({ ...bench, folder }),
    /** The name as it is typed; without one, that of the brief. */
    setName: (name: string) =>
      bench &&
      setBench({
        ...bench,
        ticket: bench.ticket.map((line) => ({
          ...line,
          changes: { ...line.changes, label_pattern: name.replace(/[{}]/g, "") || null },
        })),
      }),
    press: () => begin.mutate(),
    pressing: made,
    ended: !!made && ENDED.includes(made.state),
    problem:
      sending.error ??
      (coming.data?.sentence ? new Error(coming.data.sentence) : null) ??
      coming.error ??
      mix.error ??
      ticket.error ??
      begin.error ??
      pressing.error,
  };
}

export type GuideState = ReturnType<typeof useGuide>;
