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

/** Listens to the server's events, reloads changed data, and shows when the server is away. */
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
        // Changes in between were not reported, and failed requests are repeated.
        if (missed) void queries.invalidateQueries();
        // Answers from before this connection may be older than its first event.
        else askAll();
        missed = false;
      });
      for (const topic of TOPICS) {
        events.addEventListener(topic, () => void queries.invalidateQueries({ queryKey: [topic] }));
      }
      // New measurements appear on the ticket.
      events.addEventListener("stems", () => void queries.invalidateQueries({ queryKey: ["ticket"] }));
      events.addEventListener("error", () => {
        missed = true;
        // A rejected browser does not retry: with the maximum number of pages listening, this one
        // asks at intervals.
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
    // A browser allows six connections to a server, for all its tabs together: a hidden tab must
    // not use one.
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
