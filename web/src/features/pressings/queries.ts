import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, type Pressing, type Verdict } from "../../api/client";

// Everything below "pressings" is reloaded when the server reports a change of the record.
export const usePressView = () => useQuery({ queryKey: ["pressings", "view"], queryFn: api.pressView });

export const usePressing = (id: number | null) =>
  useQuery({
    queryKey: ["pressings", id],
    queryFn: () => api.pressing(id ?? 0),
    enabled: id !== null,
    placeholderData: (before) => (before?.id === id ? before : undefined),
  });

export const useBeside = (id: number, other: number | null) =>
  useQuery({
    queryKey: ["pressings", id, "beside", other],
    queryFn: () => api.beside(id, other ?? 0),
    enabled: other !== null,
  });

export const useRecord = (find: string, verdict: Verdict | "") =>
  useInfiniteQuery({
    queryKey: ["pressings", "record", find, verdict],
    queryFn: ({ pageParam }) => api.record(find, verdict, pageParam),
    initialPageParam: null as number | null,
    getNextPageParam: (last) => {
      const lowest = last.rows.at(-1)?.id;
      return lowest === undefined || last.rows.length < 50 ? undefined : lowest;
    },
    placeholderData: (before) => before,
  });

export const isOpen = (pressing: Pressing) => ["queued", "running", "interrupted"].includes(pressing.state);
