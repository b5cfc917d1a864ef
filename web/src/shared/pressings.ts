import type { Pressing } from "../api/client";

/** What a pressing is doing, or what became of it, in a word or three. */
export const STATES: Record<Pressing["state"], string> = {
  waiting: "waits",
  running: "running",
  "cut-off": "interrupted",
  done: "pressed",
  failed: "failed",
  cancelled: "cancelled",
};

/** The same, with how many of its files failed where some did. */
export function became(state: Pressing["state"], failed: number, files: number): string {
  return state === "done" && failed ? `pressed, ${failed} of ${files} files failed` : STATES[state];
}

/** When something was, in the nearest words that say it. */
export function when(text: string, now: Date = new Date()): string {
  const date = new Date(text);
  const time = TIME.format(date);
  const days = Math.round((midnight(now) - midnight(date)) / 86_400_000);
  if (days === 0) return `today, ${time}`;
  if (days === 1) return `yesterday, ${time}`;
  return (date.getFullYear() === now.getFullYear() ? DAY : DAY_AND_YEAR).format(date);
}

// Made once: a thousand of them are told at once.
const TIME = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const DAY_AND_YEAR = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });

const midnight = (date: Date) => new Date(date.getFullYear(), date.getMonth(), date.getDate()).getTime();
