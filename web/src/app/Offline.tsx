import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { ApiError, api } from "../api/client";

/** Says so when the server is away, and asks again for all that failed meanwhile when it is back. */
export function Offline() {
  const queries = useQueryClient();
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf, refetchInterval: 4000 });
  const away = shelf.error instanceof ApiError && shelf.error.code === "server.unreachable";
  const wasAway = useRef(false);
  useEffect(() => {
    if (wasAway.current && !away) {
      void queries.refetchQueries({ predicate: (query) => query.state.status === "error" });
    }
    wasAway.current = away;
  }, [away, queries]);
  if (!away) return null;
  return (
    <div className="offline" role="alert">
      {shelf.error?.message}
    </div>
  );
}
