import type { Finding, OrderEntry, RunningOrder } from "../../api/client";
import { clock } from "../../shared/text/format";

export const FRAMES_PER_SECOND = 75;

/** CD frames as m:ss:ff. */
export function frames(count: number): string {
  const whole = Math.abs(count);
  const seconds = Math.floor(whole / FRAMES_PER_SECOND);
  const two = (value: number) => String(value).padStart(2, "0");
  const text = `${Math.floor(seconds / 60)}:${two(seconds % 60)}:${two(whole % FRAMES_PER_SECOND)}`;
  return count < 0 ? `−${text}` : text;
}

/** CD frames as m:ss.s, with hours from an hour on. */
export function clockOf(count: number): string {
  const text = clock(Math.abs(count), FRAMES_PER_SECOND, 1);
  return count < 0 ? `−${text}` : text;
}

/** A gap as it is said: whole seconds as such, anything else in frames. */
export const gapOf = (count: number): string =>
  count % FRAMES_PER_SECOND === 0 ? `${count / FRAMES_PER_SECOND} s` : frames(count);

/** A typed gap in CD frames: seconds (2, 1.5 s), m:ss or m:ss:ff; null for invalid text. */
export function readGap(text: string): number | null {
  const clean = text.trim().toLowerCase().replace(/s$/, "").replace(",", ".").trim();
  if (/^\d+(\.\d+)?$/.test(clean)) return Math.round(Number(clean) * FRAMES_PER_SECOND);
  const found = clean.match(/^(\d+):(\d{1,2})(?::(\d{1,2}))?$/);
  if (!found) return null;
  const [minutes, seconds, rest] = [Number(found[1]), Number(found[2]), Number(found[3] ?? 0)];
  return seconds < 60 && rest < FRAMES_PER_SECOND
    ? (minutes * 60 + seconds) * FRAMES_PER_SECOND + rest
    : null;
}

export const withEntry = (order: RunningOrder, at: number, part: Partial<OrderEntry>): RunningOrder => ({
  ...order,
  entries: order.entries.map((one, number) => (number === at ? { ...one, ...part } : one)),
});

/** The order with a moved entry; the first entry has no previous one to join without a gap. */
export function moved(order: RunningOrder, from: number, to: number): RunningOrder {
  const entries = [...order.entries];
  const [one] = entries.splice(from, 1);
  if (!one || to < 0 || to > entries.length) return order;
  entries.splice(to, 0, one);
  return { ...order, entries };
}

export const without = (order: RunningOrder, at: number): RunningOrder => ({
  ...order,
  entries: order.entries.filter((_, number) => number !== at),
});

/** An id that no entry has yet. */
export function freeId(entries: readonly OrderEntry[]): string {
  const taken = new Set(entries.map((one) => one.id));
  let number = entries.length + 1;
  while (taken.has(`e${number}`)) number += 1;
  return `e${number}`;
}

export function added(order: RunningOrder, more: readonly OrderEntry[]): RunningOrder {
  const entries = [...order.entries];
  for (const one of more) entries.push({ ...one, id: freeId(entries) });
  return { ...order, entries };
}

/** An entry joined to the previous one of the same mix: one longer entry, the cut kept as an index. */
export function joinedToBefore(order: RunningOrder, at: number): RunningOrder {
  const before = order.entries[at - 1];
  const one = order.entries[at];
  if (!before || !one || before.mix !== one.mix || before.end_frame !== one.start_frame) return order;
  const longer = {
    ...before,
    end_frame: one.end_frame,
    indexes: [...before.indexes, one.start_frame, ...one.indexes],
    edges: { ...one.edges, fade_in_s: before.edges.fade_in_s, fade_in_curve: before.edges.fade_in_curve },
  };
  return without({ ...order, entries: order.entries.map((e, n) => (n === at - 1 ? longer : e)) }, at);
}

const SHORT_FADE_MS = 10;

/** The order with what a finding proposes done. */
export function remedied(order: RunningOrder, finding: Finding): RunningOrder {
  const at = finding.entry ?? 0;
  const entry = order.entries[at];
  const remedy = finding.remedy;
  if (!entry || !remedy) return order;
  const { start_frame, end_frame } = remedy;
  if (start_frame !== null && end_frame !== null) return withEntry(order, at, { start_frame, end_frame });
  switch (remedy.action) {
    case "join-before":
      return joinedToBefore(order, at);
    case "run-on":
      return withEntry(order, at, { runs_on: true });
    case "gap":
      return withEntry(order, at, { runs_on: false, gap_frames: 2 * FRAMES_PER_SECOND });
    case "two-seconds":
      return withEntry(order, at, { runs_on: false, gap_frames: 2 * FRAMES_PER_SECOND });
    case "declick":
      return withEntry(order, at, { edges: { ...entry.edges, declick_ms: SHORT_FADE_MS } });
    case "one-loudness":
      return {
        ...order,
        level: { level: { ...order.level.level, kind: "loudness", target: -14 }, together: "each" },
      };
    case "codes":
      return { ...order, entries: counted(order.entries) };
    default:
      return order;
  }
}

export const textOf = (entry: OrderEntry, field: string): string =>
  entry.tags.find(([name]) => name === field)?.[1] ?? "";

export const withText = (tags: OrderEntry["tags"], field: string, text: string): OrderEntry["tags"] => {
  const rest = tags.filter(([name]) => name !== field);
  return text.trim() ? [...rest, [field, text.trim()]] : rest;
};

/** Entries without an ISRC of their own get the numbers that follow the last one that has one. */
function counted(entries: readonly OrderEntry[]): OrderEntry[] {
  let last = "";
  return entries.map((entry) => {
    const own = textOf(entry, "isrc");
    if (own) {
      last = own;
      return entry;
    }
    const found = last.match(/^(.*?)(\d{5})$/);
    if (!found?.[1] || !found[2]) return entry;
    last = `${found[1]}${String(Number(found[2]) + 1).padStart(5, "0")}`;
    return { ...entry, tags: withText(entry.tags, "isrc", last) };
  });
}

/** Free time on discs, in words. */
export function room(end: number, capacities: Readonly<Record<string, number>>): string {
  const left80 = (capacities[80] ?? 0) - end;
  if (left80 < 0) return `${frames(-left80)} over an 80-minute disc`;
  const left74 = (capacities[74] ?? 0) - end;
  const minutes = (count: number) =>
    `${Math.floor(count / 4500)} min ${Math.floor((count % 4500) / FRAMES_PER_SECOND)} s`;
  return left74 < 0
    ? `${minutes(left80)} left on an 80-minute disc`
    : `${minutes(left74)} left on a 74-minute disc, ${minutes(left80)} on an 80-minute disc`;
}
