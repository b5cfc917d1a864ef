import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef } from "react";
import { useStore } from "zustand";
import { createStore } from "zustand/vanilla";
import { api, type OrderShown, type RunningOrder } from "../../api/client";

const MOST_STEPS = 100;

/** What orders were before each change, newest last, so that one can go back; by the order's number. */
const past = createStore<{ readonly steps: Readonly<Record<number, readonly RunningOrder[]>> }>(() => ({
  steps: {},
}));

const stepsOf = (id: number) => past.getState().steps[id] ?? [];
const setSteps = (id: number, steps: readonly RunningOrder[]) =>
  past.setState((state) => ({ steps: { ...state.steps, [id]: steps.slice(-MOST_STEPS) } }));

export const useOrder = (id: number | null) =>
  useQuery({
    queryKey: ["orders", id],
    queryFn: () => api.order(id ?? 0),
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
  const line = useRef<Promise<unknown>>(Promise.resolve());
  const steps = useStore(past, (state) => state.steps[id] ?? NONE);
  const keep = useMutation({
    mutationFn: (order: RunningOrder) => {
      const next = line.current.then(() => api.setOrder(id, order));
      line.current = next.catch(() => undefined);
      return next;
    },
    onSuccess: (answer, order) => {
      const now = queries.getQueryData<OrderShown>(["orders", id]);
      // What was changed meanwhile is on its way and not overwritten.
      if (now?.order === order) queries.setQueryData(["orders", id], answer);
      queries.setQueriesData<{ id: number; title: string }[]>({ queryKey: ["orders", "all"] }, (all) =>
        all?.map((one) => (one.id === id ? { ...one, title: answer.order.title } : one)),
      );
    },
    onError: () => {
      setSteps(id, stepsOf(id).slice(0, -1));
      void queries.invalidateQueries({ queryKey: ["orders", id] });
    },
  });
  const show = useCallback(
    (order: RunningOrder) => {
      queries.setQueryData<OrderShown>(["orders", id], (now) => now && { ...now, order });
      keep.mutate(order);
    },
    [queries, id, keep.mutate],
  );
  const change = (order: RunningOrder) => {
    if (order === shown.order) return;
    setSteps(id, [...stepsOf(id), shown.order]);
    show(order);
  };
  const undo = () => {
    const before = stepsOf(id).at(-1);
    if (!before) return;
    setSteps(id, stepsOf(id).slice(0, -1));
    show(before);
  };
  return { change, undo, undoable: steps.length > 0, pending: keep.isPending, error: keep.error };
}

const NONE: readonly RunningOrder[] = [];
