import { describe, expect, it } from "vitest";
import { between, changed, type History, nudge, withEdge } from "./model";

const begin: History = { past: [], present: { start: 0, end: 100 }, future: [] };

describe("history", () => {
  it("goes back and forward again", () => {
    const once = changed(begin, { type: "set", range: { start: 10, end: 100 } });
    const back = changed(once, { type: "undo" });
    expect(back.present).toEqual(begin.present);
    expect(changed(back, { type: "redo" }).present).toEqual({ start: 10, end: 100 });
  });

  it("forgets what was undone once something new is set", () => {
    const once = changed(begin, { type: "set", range: { start: 10, end: 100 } });
    const other = changed(changed(once, { type: "undo" }), { type: "set", range: { start: 5, end: 100 } });
    expect(other.future).toEqual([]);
  });

  it("keeps nothing for a change that changes nothing, and stays put at either end", () => {
    expect(changed(begin, { type: "set", range: { start: 0, end: 100 } })).toBe(begin);
    expect(changed(begin, { type: "undo" })).toBe(begin);
    expect(changed(begin, { type: "redo" })).toBe(begin);
  });
});

describe("edges", () => {
  it("never cross and never leave the mix", () => {
    expect(withEdge({ start: 10, end: 20 }, "start", 50, 100)).toEqual({ start: 19, end: 20 });
    expect(withEdge({ start: 10, end: 20 }, "end", 3, 100)).toEqual({ start: 10, end: 11 });
    expect(withEdge({ start: 10, end: 20 }, "end", 300, 100).end).toBe(100);
    expect(withEdge({ start: 10, end: 20 }, "start", -4, 100).start).toBe(0);
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
