import { useQuery } from "@tanstack/react-query";
import { ApiError, api } from "../api/client";

/** Says so when the server is away, and goes by itself when it is back. */
export function Offline() {
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf, refetchInterval: 4000 });
  if (!(shelf.error instanceof ApiError) || shelf.error.code !== "server.unreachable") return null;
  return (
    <div className="offline" role="alert">
      {shelf.error.message}
    </div>
  );
}
