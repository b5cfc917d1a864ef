import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App } from "antd";

/** An action on the server: errors appear in a message, and everything below the keys is reloaded. */
function useAction<T, A>(
  keys: string[],
  action: (wish: T) => Promise<A>,
  done?: (answer: A, wish: T) => void,
) {
  const queries = useQueryClient();
  const { message } = App.useApp();
  return useMutation({
    mutationFn: action,
    onSuccess: (answer, wish) => done?.(answer, wish),
    onError: (error: Error) => message.error(error.message),
    onSettled: () => Promise.all(keys.map((key) => queries.invalidateQueries({ queryKey: [key] }))),
  });
}

export const usePressingAction = <T, A>(
  action: (wish: T) => Promise<A>,
  done?: (answer: A, wish: T) => void,
) => useAction(["pressings"], action, done);

export const useSendAction = <T, A>(action: (wish: T) => Promise<A>, done?: (answer: A, wish: T) => void) =>
  useAction(["outbox", "ticket"], action, done);
