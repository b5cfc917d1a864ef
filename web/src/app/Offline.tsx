import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { UNREACHABLE } from "../api/client";

/** Hears what happens on the server, asks anew for what changed there, and says so when the server is away. */
export function Offline() {
  const queries = useQueryClient();
  const [away, setAway] = useState(false);
  useEffect(() => {
    const events = new EventSource("/api/events");
    let wasAway = false;
    events.addEventListener("here", () => {
      setAway(false);
      // Nobody told what happened meanwhile, and what failed meanwhile is asked for again.
      if (wasAway) void queries.invalidateQueries();
      wasAway = false;
    });
    for (const topic of ["shelf", "pressings"]) {
      events.addEventListener(topic, () => void queries.invalidateQueries({ queryKey: [topic] }));
    }
    events.addEventListener("error", () => {
      wasAway = true;
      setAway(true);
    });
    return () => events.close();
  }, [queries]);
  if (!away) return null;
  return (
    <div className="offline" role="alert">
      {UNREACHABLE}
    </div>
  );
}
