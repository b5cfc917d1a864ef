import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type StemChange } from "../../../api/client";

/** The stems of a mix; the server reports changes. */
export const useStems = (mixId: number) =>
  useQuery({ queryKey: ["stems", mixId], queryFn: () => api.stems(mixId) });

/** All actions on stems, and the error of the last one. */
export function useStemHands(mixId: number) {
  const queries = useQueryClient();
  const refresh = () => {
    void queries.invalidateQueries({ queryKey: ["stems", mixId] });
    void queries.invalidateQueries({ queryKey: ["ticket"] });
  };
  const options = { onSuccess: refresh };
  const change = useMutation({
    mutationFn: ({ stem, ...wish }: StemChange & { stem: number }) => api.changeStem(mixId, stem, wish),
    // A new name appears on the ticket, too.
    onSuccess: () => {
      refresh();
      void queries.invalidateQueries({ queryKey: ["mix", mixId] });
    },
  });
  const remove = useMutation({ mutationFn: (stem: number) => api.removeStem(mixId, stem), ...options });
  const fetch = useMutation({ mutationFn: (path: string) => api.fetchStems(mixId, path), ...options });
  const check = useMutation({ mutationFn: () => api.checkStems(mixId), ...options });
  const cancel = useMutation({ mutationFn: () => api.cancelStemCheck(mixId), ...options });
  const align = useMutation({ mutationFn: () => api.alignStems(mixId), ...options });
  const forget = useMutation({ mutationFn: () => api.forgetRefusedStems(mixId), ...options });
  const all = [change, remove, fetch, check, cancel, align, forget];
  return {
    change,
    remove,
    fetch,
    check,
    cancel,
    align,
    forget,
    refresh,
    error: all.find((one) => one.error)?.error,
  };
}

export type StemHands = ReturnType<typeof useStemHands>;
