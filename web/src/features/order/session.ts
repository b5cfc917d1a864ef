import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import { ApiError, api, type OrderShown, type RunningOrder } from "../../api/client";

const MOST_STEPS = 100;

/** An order, and what it was before each change, newest last. */
interface State {
  readonly order: RunningOrder;
  readonly steps: readonly RunningOrder[];
}

interface Session {
  readonly steps: readonly RunningOrder[];
  /** The state on its way to the server, or waiting for it; null when everything is saved. */
  readonly unkept: State | null;
  /** The server's present state, to return to after a rejection; null when everything is saved. */
  readonly kept: State | null;
  readonly sending: boolean;
  readonly problem: string;
}

const NEW: Session = { steps: [], unkept: null, kept: null, sending: false, problem: "" };

/** The orders that were changed in this browser, by their numbers; it outlives the screen. */
const sessions = createStore<Readonly<Record<number, Session>>>(() => ({}));
const sessionOf = (id: number) => sessions.getState()[id] ?? NEW;
const set = (id: number, part: Partial<Session>) =>
  sessions.setState({ [id]: { ...sessionOf(id), ...part } });

export const useOrder = (id: number | null) =>
  useQuery({
    queryKey: ["orders", id],
    queryFn: async () => {
      const shown = await api.order(id ?? 0);
      // A change made during the request is newer than its answer.
      const { unkept } = sessionOf(shown.id);
      return unkept ? rearranged(shown, unkept.order) : shown;
    },
    enabled: id !== null,
    placeholderData: (before) => (before?.id === id ? before : undefined),
  });

/**
 * Changes to an order: shown at once, kept on the server one after the other, and undone step by step. What the server
 * refuses is said, and the order is what it was.
 */
export function useChanges(shown: OrderShown) {
  const queries = useQueryClient();
  const id = shown.id;
  const { steps, problem } = useStore(sessions, (all) => all[id] ?? NEW);
  const change = (order: RunningOrder) => {
    if (order === shown.order) return;
    put(queries, id, { order, steps: [...sessionOf(id).steps, shown.order].slice(-MOST_STEPS) });
  };
  const undo = () => {
    const before = steps.at(-1);
    if (!before) return;
    put(queries, id, { order: before, steps: steps.slice(0, -1) });
  };
  return { change, undo, undoable: steps.length > 0, problem };
}

function put(queries: QueryClient, id: number, next: State) {
  const { steps, kept, sending } = sessionOf(id);
  const shown = queries.getQueryData<OrderShown>(["orders", id]);
  set(id, { unkept: next, kept: kept ?? (shown ? { order: shown.order, steps } : null), problem: "" });
  show(queries, id, next);
  if (!sending) void send(queries, id);
}

function show(queries: QueryClient, id: number, { order, steps }: State) {
  set(id, { steps });
  queries.setQueryData<OrderShown>(["orders", id], (now) => now && rearranged(now, order));
}

/** Sends the newest state until the server has it. */
async function send(queries: QueryClient, id: number) {
  set(id, { sending: true });
  for (let state = sessionOf(id).unkept; state; state = sessionOf(id).unkept) {
    try {
      const answer = await api.setOrder(id, state.order);
      if (sessionOf(id).unkept !== state) {
        set(id, { kept: state });
        continue;
      }
      set(id, { unkept: null, kept: null });
      queries.setQueryData(["orders", id], answer);
    } catch (error) {
      const { unkept, kept } = sessionOf(id);
      if (unkept !== state) continue;
      const said = error instanceof ApiError ? error.message : String(error);
      set(id, { unkept: null, kept: null, problem: said });
      // At once, so that the message and the state it describes appear together.
      if (kept) show(queries, id, kept);
      await queries.invalidateQueries({ queryKey: ["orders", id] });
    }
  }
  set(id, { sending: false });
}

/** After a closed page, the last state is restored. */
window.addEventListener("pagehide", () => {
  for (const [id, { unkept }] of Object.entries(sessions.getState()))
    if (unkept) void api.leaveOrder(Number(id), unkept.order).catch(() => undefined);
});

/** A provisional display of an order until the server's answer: its rows follow their entries. */
function rearranged(shown: OrderShown, order: RunningOrder): OrderShown {
  const rows = new Map(shown.order.entries.map((entry, at) => [entry.id, shown.entries[at]]));
  const entries = order.entries.flatMap((entry) => rows.get(entry.id) ?? []);
  return { ...shown, order, entries };
}
