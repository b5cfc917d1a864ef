import { describe, expect, it } from "vitest";
import type { Edges } from "../../api/client";
import { between, changed, fadeGain, type History, nudge, remedied, withEdge } from "./model";

const edges: Edges = {
  end: "stop",
  hold_s: 0,
  ring_below_dbfs: -70,
  ring_limit_s: 30,
  fade_in_s: 0,
  fade_in_curve: "equal-power",
  fade_out_s: 0,
  fade_out_curve: "equal-power",
  silence_before_s: 0,
  silence_after_s: 0,
};

const begin: History = { past: [], present: { start: 0, end: 100, edges }, future: [] };

describe("history", () => {
  it("goes back and forward again", () => {
    const once = changed(begin, { type: "set", range: { start: 10, end: 100, edges } });
    const back = changed(once, { type: "undo" });
    expect(back.present).toEqual(begin.present);
    expect(changed(back, { type: "redo" }).present).toEqual({ start: 10, end: 100, edges });
  });

  it("forgets what was undone once something new is set", () => {
    const once = changed(begin, { type: "set", range: { start: 10, end: 100, edges } });
    const other = changed(changed(once, { type: "undo" }), {
      type: "set",
      range: { start: 5, end: 100, edges },
    });
    expect(other.future).toEqual([]);
  });

  it("keeps nothing for a change that changes nothing, and stays put at either end", () => {
    expect(changed(begin, { type: "set", range: { start: 0, end: 100, edges } })).toBe(begin);
    expect(changed(begin, { type: "undo" })).toBe(begin);
    expect(changed(begin, { type: "redo" })).toBe(begin);
  });
});

describe("edges", () => {
  it("never cross and never leave the mix", () => {
    expect(withEdge({ start: 10, end: 20, edges }, "start", 50, 100)).toEqual({ start: 19, end: 20, edges });
    expect(withEdge({ start: 10, end: 20, edges }, "end", 3, 100).end).toBe(11);
    expect(withEdge({ start: 10, end: 20, edges }, "end", 300, 100).end).toBe(100);
    expect(withEdge({ start: 10, end: 20, edges }, "start", -4, 100).start).toBe(0);
  });

  it("come from a drag in either direction, but not from a click", () => {
    expect(between(30, 12, 100)).toEqual({ start: 12, end: 30 });
    expect(between(30, 30.2, 100)).toBeNull();
  });

  it("are nudged by time, or by one sample", () => {
    expect(nudge(96000, false, false)).toBe(960);
    expect(nudge(96000, true, false)).toBe(9600);
    expect(nudge(96000, true, true)).toBe(1);
  });
});

describe("remedies and fades", () => {
  it("change only what they name", () => {
    const range = { start: 10, end: 90, edges };
    const ring = { label: "Ring out", start_frame: null, end_frame: null, end: "ring" } as const;
    expect(remedied(range, ring)).toEqual({ start: 10, end: 90, edges: { ...edges, end: "ring" } });
    expect(remedied(range, { ...ring, end: null, start_frame: 0 })).toEqual({ start: 0, end: 90, edges });
  });

  it("rise from nothing to one", () => {
    for (const curve of ["linear", "equal-power", "s", "logarithmic"] as const) {
      expect(fadeGain(curve, 0)).toBeCloseTo(0, 10);
      expect(fadeGain(curve, 1)).toBeCloseTo(1, 10);
    }
    expect(fadeGain("logarithmic", 0.5)).toBeCloseTo(0.0306, 3);
  });
});
