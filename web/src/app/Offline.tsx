import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { UNREACHABLE } from "../api/client";

const TOPICS = [
  "shelf",
  "pressings",
  "ladders",
  "desks",
  "orders",
  "burns",
  "stems",
  "passes",
  "outbox",
  "handoffs",
];

/** Hears what happens on the server, asks anew for what changed there, and says so when the server is away. */
export function Offline() {
  const queries = useQueryClient();
  const [away, setAway] = useState(false);
  useEffect(() => {
    let events: EventSource | null = null;
    let missed = false;
    const listen = () => {
      events = new EventSource("/api/events");
      events.addEventListener("here", () => {
        setAway(false);
        // Nobody told what happened meanwhile, and what failed meanwhile is asked for again.
        if (missed) void queries.invalidateQueries();
        // What was answered before this line stood may be older than its first word.
        else for (const topic of TOPICS) void queries.invalidateQueries({ queryKey: [topic] });
        missed = false;
      });
      for (const topic of TOPICS) {
        events.addEventListener(topic, () => void queries.invalidateQueries({ queryKey: [topic] }));
      }
      // What was being measured is told on the ticket once it is known.
      events.addEventListener("stems", () => void queries.invalidateQueries({ queryKey: ["ticket"] }));
      events.addEventListener("error", () => {
        missed = true;
        setAway(true);
      });
    };
    const leave = () => {
      events?.close();
      events = null;
    };
    // A browser keeps six lines to a server, of all its tabs together: one that nobody looks at must not hold one.
    const turn = () => {
      if (document.visibilityState === "visible") {
        if (!events) listen();
      } else {
        leave();
        missed = true;
      }
    };
    turn();
    document.addEventListener("visibilitychange", turn);
    return () => {
      document.removeEventListener("visibilitychange", turn);
      leave();
    };
  }, [queries]);
  if (!away) return null;
  return (
    <div className="offline" role="alert">
      {UNREACHABLE}
    </div>
  );
}
