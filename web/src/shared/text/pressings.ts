import type { Pressing } from "../../api/client";
import { PRESSINGS } from "./words";

/** The state of a pressing, with the number of failed files. */
export function became(state: Pressing["state"], failed: number, files: number): string {
  return state === "done" && failed ? `${failed} of ${files} files failed` : PRESSINGS[state];
}

/** A date in the shortest form: today, yesterday, or the day. */
export function when(text: string, now: Date = new Date()): string {
  const date = new Date(text);
  const time = TIME.format(date);
  const days = Math.round((midnight(now) - midnight(date)) / 86_400_000);
  if (days === 0) return `today, ${time}`;
  if (days === 1) return `yesterday, ${time}`;
  return (date.getFullYear() === now.getFullYear() ? DAY : DAY_AND_YEAR).format(date);
}

// Made once: lists show a thousand dates at a time.
const TIME = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const DAY = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });
const DAY_AND_YEAR = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });

const midnight = (date: Date) => new Date(date.getFullYear(), date.getMonth(), date.getDate()).getTime();
