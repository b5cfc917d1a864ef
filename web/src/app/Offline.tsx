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

const SECONDS_BETWEEN = 5;

/** Hears what happens on the server, asks anew for what changed there, and says so when the server is away. */
export function Offline() {
  const queries = useQueryClient();
  const [away, setAway] = useState(false);
  useEffect(() => {
    let events: EventSource | null = null;
    let missed = false;
    let asking: ReturnType<typeof setInterval> | undefined;
    const askAll = () => {
      for (const topic of TOPICS) void queries.invalidateQueries({ queryKey: [topic] });
    };
    const listen = () => {
      events = new EventSource("/api/events");
      events.addEventListener("here", () => {
        setAway(false);
        // Nobody told what happened meanwhile, and what failed meanwhile is asked for again.
        if (missed) void queries.invalidateQueries();
        // What was answered before this line stood may be older than its first word.
        else askAll();
        missed = false;
      });
      for (const topic of TOPICS) {
        events.addEventListener(topic, () => void queries.invalidateQueries({ queryKey: [topic] }));
      }
      // What was being measured is told on the ticket once it is known.
      events.addEventListener("stems", () => void queries.invalidateQueries({ queryKey: ["ticket"] }));
      events.addEventListener("error", () => {
        missed = true;
        // A browser that is refused does not try again: so many pages listen that this one asks by itself.
        if (events?.readyState === EventSource.CLOSED) {
          clearInterval(asking);
          asking = setInterval(askAll, SECONDS_BETWEEN * 1000);
        } else setAway(true);
      });
    };
    const leave = () => {
      events?.close();
      events = null;
      clearInterval(asking);
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
