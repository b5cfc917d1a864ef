import type { Edges, Remedy, Stretch } from "../../api/client";

/** The range of the bench and its edges. */
export interface Range {
  readonly start: number;
  readonly end: number;
  readonly edges: Edges;
}

export interface History {
  readonly past: readonly Range[];
  readonly present: Range;
  readonly future: readonly Range[];
}

export type Change =
  | { readonly type: "set"; readonly range: Range }
  | { readonly type: "undo" }
  | { readonly type: "redo" };

const MOST_STEPS = 200;
const same = (a: Range, b: Range) =>
  a.start === b.start && a.end === b.end && JSON.stringify(a.edges) === JSON.stringify(b.edges);

export const stretchOf = (range: Range): Stretch => ({
  start_frame: range.start,
  end_frame: range.end,
  edges: range.edges,
});

/** The range once a remedy has been applied to it. */
export function remedied(range: Range, remedy: Remedy): Range {
  return {
    start: remedy.start_frame ?? range.start,
    end: remedy.end_frame ?? range.end,
    edges: remedy.end ? { ...range.edges, end: remedy.end } : range.edges,
  };
}

/** Gain of a fade in at a share of its length, for drawing; the same curves as the press. */
export function fadeGain(curve: Edges["fade_in_curve"], share: number): number {
  const at = Math.min(1, Math.max(0, share));
  switch (curve) {
    case "linear":
      return at;
    case "equal-power":
      return Math.sin((at * Math.PI) / 2);
    case "s":
      return 0.5 - 0.5 * Math.cos(at * Math.PI);
    case "logarithmic":
      return (0.001 ** (1 - at) - 0.001) / 0.999;
  }
}

export function changed(history: History, change: Change): History {
  switch (change.type) {
    case "set":
      if (same(change.range, history.present)) return history;
      return {
        past: [...history.past, history.present].slice(-MOST_STEPS),
        present: change.range,
        future: [],
      };
    case "undo": {
      const last = history.past.at(-1);
      if (!last) return history;
      return { past: history.past.slice(0, -1), present: last, future: [history.present, ...history.future] };
    }
    case "redo": {
      const [next, ...rest] = history.future;
      if (!next) return history;
      return { past: [...history.past, history.present], present: next, future: rest };
    }
  }
}

/** A range with one edge moved, kept inside the mix and at least one frame long. */
export function withEdge(range: Range, edge: "start" | "end", frame: number, frames: number): Range {
  const at = Math.round(frame);
  return edge === "start"
    ? { ...range, start: Math.max(0, Math.min(range.end - 1, at)) }
    : { ...range, end: Math.min(frames, Math.max(range.start + 1, at)) };
}

/** The range between two places, in whichever order they were given. */
export function between(a: number, b: number, frames: number): { start: number; end: number } | null {
  const start = Math.max(0, Math.round(Math.min(a, b)));
  const end = Math.min(frames, Math.round(Math.max(a, b)));
  return end > start ? { start, end } : null;
}

/** How far a nudge goes, in frames: a hundredth of a second, a tenth with Shift, one sample with Alt. */
export function nudge(rateHz: number, big: boolean, fine: boolean): number {
  if (fine) return 1;
  return Math.round(rateHz * (big ? 0.1 : 0.01));
}
