import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";
import { api } from "../../api/client";

// Everything below "outbox" is reloaded when the server reports a change there.
export const useDropOffs = () => useQuery({ queryKey: ["outbox", "drop-offs"], queryFn: api.dropOffs });
export const useOutbox = () => useQuery({ queryKey: ["outbox", "parcels"], queryFn: api.outbox });

/** An action on a drop-off or a transfer; errors are shown, and everything is reloaded. */
export function useSendDeed<T, A>(deed: (wish: T) => Promise<A>, done?: (answer: A) => void) {
  const queries = useQueryClient();
  const { message } = App.useApp();
  return useMutation({
    mutationFn: deed,
    onSuccess: (answer) => done?.(answer),
    onError: (error: Error) => message.error(error.message),
    onSettled: async () => {
      await queries.invalidateQueries({ queryKey: ["outbox"] });
      await queries.invalidateQueries({ queryKey: ["ticket"] });
    },
  });
}
