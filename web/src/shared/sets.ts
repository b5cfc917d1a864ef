import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type SetShown } from "../api/client";
import { counted } from "./text/format";

const KEY = ["sets"];

export const useSets = () => useQuery({ queryKey: KEY, queryFn: api.sets });

/** A change of the sets that gives all of them. */
export function useSetChange<T>(change: (wish: T) => Promise<SetShown[]>) {
  const queries = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: (sets) => queries.setQueryData(KEY, sets) });
}

export const setWords = (one: SetShown): string =>
  `${counted(one.briefs.length, "delivery", "deliveries")}: ${[...new Set(one.briefs)].join(", ")}`;
