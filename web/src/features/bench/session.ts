import { createContext, useContext } from "react";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import type { BenchState, Defaults, Mix, Part, Proposal, Remedy, Row, TicketLine } from "../../api/client";
import { withRemedy } from "../../shared/remedies";
import {
  type Change,
  changed,
  EDGE_REFUSED,
  type History,
  type Range,
  sameBench,
  withBeside,
  withCopy,
  withEdge,
  withEdited,
  withLine,
  withLines,
  withMoved,
  withNewRange,
  withOwnRange,
  withoutLine,
  withoutRange,
  withRange,
  withRanges,
} from "./model";

/** A station of a file: rows move about as the tree changes, so it is known by its file, not by its row. */
export interface ChosenStation {
  readonly line: string;
  /** The file by its id; where that is gone, the first of its delivery stands for it. */
  readonly file: string;
  readonly kind: string;
}

export interface BenchView {
  readonly history: History;
  /** The server's last known state: distinguishes changes made elsewhere from those made here. */
  readonly kept: BenchState;
  readonly rangeId: string;
  readonly station: ChosenStation;
  readonly cursor: number;
  /** The field of the tag sheet that a finding leads to. */
  readonly wantedField: string | null;
  readonly dialog: "none" | "add" | "parts" | "keys" | "sets";
  /** The stems that are heard in place of the mix; null is the mix. */
  readonly heard: readonly number[] | null;
  /** Whether choices at a shared station apply to the selected delivery alone. */
  readonly alone: boolean;
  /** Why the last gesture changed nothing. */
  readonly notice: string | null;
}

/** The row that a chosen station is in; the first one when its delivery is gone. */
export function rowOf(rows: readonly Row[], chosen: ChosenStation): Row | undefined {
  return (
    rows.find((row) => row.id === chosen.file) ?? rows.find((row) => row.line_id === chosen.line) ?? rows[0]
  );
}

/** Bench and view of one mix, independent of its drawing; it outlasts the page. */
export function benchSession(mix: Mix, defaults: Defaults) {
  const first = mix.bench.ticket[0]?.id ?? "";
  const store = createStore<BenchView>(() => ({
    history: { past: [], present: mix.bench, future: [] },
    kept: mix.bench,
    rangeId: mix.bench.ranges[0]?.id ?? "",
    station: { line: first, file: first, kind: "depth" },
    cursor: mix.bench.ranges[0]?.start_frame ?? 0,
    wantedField: null,
    dialog: "none",
    heard: null,
    alone: false,
    notice: null,
  }));
  let stored = mix.bench;
  const bench = () => store.getState().history.present;
  const change = (one: Change) =>
    store.setState((now) => ({ history: changed(now.history, one), notice: null }));
  const set = (next: BenchState) => change({ type: "set", bench: next });
  const show = (part: Partial<BenchView>) => store.setState(part);
  const range = (): Range => rangeIn(bench(), store.getState().rangeId);
  const chooseRange = (id: string, kind = store.getState().station.kind) => {
    const line = bench().ticket.find((one) => one.range_id === id)?.id;
    show({ rangeId: id, alone: false, ...(line ? { station: { line, file: line, kind } } : {}) });
  };
  return {
    store,
    defaults,
    bench,
    range,
    set,
    edit: (edit: (now: BenchState) => BenchState) => change({ type: "edit", edit }),
    undo: () => change({ type: "undo" }),
    redo: () => change({ type: "redo" }),
    /** The server has this state now; a change made elsewhere is adopted, and can be undone. */
    keep: (kept: BenchState) => {
      if (sameBench(kept, stored)) return;
      if (!sameBench(kept, store.getState().kept) && !sameBench(kept, bench())) set(kept);
      show({ kept });
    },
    /** The sent state is saved now, in the server's order. */
    sent: (sent: BenchState, back: BenchState) => {
      stored = back;
      show({ kept: sent });
    },
    show,
    setCursor: (cursor: number) => show({ cursor }),
    setRange: (next: Range) => set(withRange(bench(), next)),
    /** Moves an edge of a range; gives the sentence when it would meet the other one. */
    setEdge: (edge: "start" | "end", frame: number, id: string): string | null => {
      const same = bench().ranges.find((one) => one.id === id);
      const next = same && withEdge(same, edge, frame, mix.frames);
      if (next) set(withRange(bench(), next));
      const refused = next === null ? EDGE_REFUSED[edge] : null;
      show({ notice: refused });
      return refused;
    },
    setLine: (line: TicketLine) => set(withLine(bench(), line)),
    editLines: (ids: readonly string[], edit: (line: TicketLine) => TicketLine) =>
      set(withEdited(bench(), ids, edit)),
    /** Applies what mends a finding, in one file or in several at once: one step back. */
    remedy: (...all: readonly (readonly [Row, Remedy])[]) =>
      set(all.reduce((now, [row, remedy]) => withRemedy(now, row, remedy), bench())),
    chooseRange,
    chooseStation: (row: Row, kind: string, wantedField: string | null = null) =>
      show({
        station: { line: row.line_id, file: row.id, kind },
        rangeId: row.range_id,
        wantedField,
        alone: false,
      }),
    /** From range to range, round and round. */
    nextRange: (step: number) => {
      const { ranges } = bench();
      const at = ranges.findIndex((one) => one.id === range().id);
      const next = ranges[(at + step + ranges.length) % ranges.length];
      if (next) chooseRange(next.id);
    },
    addRange: (start: number, end: number) => {
      const made = withNewRange(bench(), start, end, defaults);
      set(made.bench);
      chooseRange(made.id, "range");
    },
    removeRange: (id: string) => set(withoutRange(bench(), id)),
    /** Proposed ranges in the place of all, or beside them. */
    take: (proposal: Proposal, beside: boolean) => {
      const before = bench();
      set(beside ? withBeside(before, proposal, defaults) : withRanges(before, proposal.ranges, defaults));
      const first = bench().ranges[beside ? before.ranges.length : 0];
      if (first) chooseRange(first.id, "range");
    },
    addLines: (briefs: readonly string[], ranges: readonly string[], parts: readonly Part[]) => {
      const there = bench().ticket.length;
      set(withLines(bench(), briefs, ranges, defaults, parts));
      const line = bench().ticket[there]?.id;
      if (line) show({ station: { line, file: line, kind: "name" } });
    },
    switchLine: (id: string, on: boolean) => {
      const line = bench().ticket.find((one) => one.id === id);
      if (line) set(withLine(bench(), { ...line, on }));
    },
    copyLine: (id: string) => {
      const line = bench().ticket.find((one) => one.id === id);
      if (line) set(withCopy(bench(), line));
    },
    /** Gives a delivery a copy of its range. */
    ownRange: (id: string) => {
      const line = bench().ticket.find((one) => one.id === id);
      if (!line) return;
      set(withOwnRange(bench(), line, defaults.looks));
      chooseRange(bench().ticket.find((one) => one.id === id)?.range_id ?? "", "range");
    },
    moveLine: (id: string, step: -1 | 1) => set(withMoved(bench(), id, step)),
    removeLine: (id: string) => set(withoutLine(bench(), id)),
  };
}

export type BenchSession = ReturnType<typeof benchSession>;

/** The chosen range of a bench; the first one when it is gone. */
export const rangeIn = (bench: BenchState, id: string): Range =>
  bench.ranges.find((one) => one.id === id) ?? (bench.ranges[0] as Range);

const MOST_SESSIONS = 20;
const sessions = new Map<string, BenchSession>();

/** The session of a mix: the one that was left, undo and all, or a new one. */
export function sessionOf(mix: Mix, defaults: Defaults): BenchSession {
  // By the file it was made of, whichever of its channels are the mix: numbers of mixes may be given again.
  const key = `${mix.id} ${mix.content.split("-")[0]}`;
  const session = sessions.get(key) ?? benchSession(mix, defaults);
  sessions.delete(key);
  sessions.set(key, session);
  for (const oldest of sessions.keys()) {
    if (sessions.size <= MOST_SESSIONS) break;
    sessions.delete(oldest);
  }
  return session;
}

const SessionContext = createContext<BenchSession | null>(null);
export const SessionProvider = SessionContext.Provider;

export function useSession(): BenchSession {
  const session = useContext(SessionContext);
  if (!session) throw new Error("a bench has a session");
  return session;
}

/** A part of the state; the component is rendered again when it changes. */
export function useBench<T>(part: (view: BenchView) => T): T {
  return useStore(useSession().store, part);
}

export const useSetOut = (): BenchState => useBench((view) => view.history.present);
export const useRange = (): Range => useBench((view) => rangeIn(view.history.present, view.rangeId));
