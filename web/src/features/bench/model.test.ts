import { describe, expect, it } from "vitest";
import type { BenchState, Defaults, Edges, Row, TicketLine } from "../../api/client";
import { remedied, withRemedy } from "../../shared/remedies";
import {
  between,
  changed,
  fadeGain,
  type History,
  nudge,
  type Range,
  settledOf,
  withCopy,
  withEdge,
  withLines,
  withMoved,
  withNewMarker,
  withNewRange,
  withOwnRange,
  withoutLine,
  withoutRange,
  withRange,
  withRanges,
} from "./model";

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
  declick_ms: 0,
  crossfade_ms: 0,
  room_tone: false,
};

const LOOKS = 6;
const defaults = { edges, changes: {}, looks: LOOKS, targets: {} } as unknown as Defaults;

const range = (start_frame: number, end_frame: number): Range => ({
  id: "r1",
  name: "",
  look: 0,
  start_frame,
  end_frame,
  edges,
});
const bench = (start: number, end: number): BenchState => ({
  ranges: [range(start, end)],
  markers: [],
  tempo: null,
  clash: "keep-both",
  cover: "",
  tags: [],
  finish: { remove_dc: false, high_pass_hz: 0, gain_db: 0, ceiling_dbtp: null },
  ticket: [],
  silence_dbfs: null,
  folder: "",
  signed: [],
});

const begin: History = { past: [], present: bench(0, 100), future: [] };

describe("history", () => {
  it("applies a late result to the current bench", () => {
    const moved = changed(begin, { type: "set", bench: bench(20, 100) });
    const both = changed(moved, {
      type: "edit",
      edit: (now) => withRange(now, withEdge(now.ranges[0] ?? range(0, 1), "end", 80, 100) ?? range(0, 1)),
    });
    expect(both.present).toEqual(bench(20, 80));
    expect(both.past).toHaveLength(2);
  });

  it("goes back and forward again", () => {
    const once = changed(begin, { type: "set", bench: bench(10, 100) });
    const back = changed(once, { type: "undo" });
    expect(back.present).toEqual(begin.present);
    expect(changed(back, { type: "redo" }).present).toEqual(bench(10, 100));
  });

  it("clears redo after a new change", () => {
    const once = changed(begin, { type: "set", bench: bench(10, 100) });
    const other = changed(changed(once, { type: "undo" }), {
      type: "set",
      bench: bench(5, 100),
    });
    expect(other.future).toEqual([]);
  });

  it("keeps nothing for a change that changes nothing, and stays put at either end", () => {
    expect(changed(begin, { type: "set", bench: bench(0, 100) })).toBe(begin);
    expect(changed(begin, { type: "undo" })).toBe(begin);
    expect(changed(begin, { type: "redo" })).toBe(begin);
  });
});

describe("edges", () => {
  it("never cross and never leave the mix", () => {
    expect(withEdge(range(10, 20), "start", 19, 100)).toEqual(range(19, 20));
    expect(withEdge(range(10, 20), "start", 20, 100)).toBeNull();
    expect(withEdge(range(10, 20), "end", 10, 100)).toBeNull();
    expect(withEdge(range(10, 20), "end", 300, 100)).toEqual(range(10, 100));
    expect(withEdge(range(10, 20), "start", -4, 100)).toEqual(range(0, 20));
  });

  it("come from a drag in either direction, but not from a click", () => {
    expect(between(30, 12, 100)).toEqual({ start_frame: 12, end_frame: 30 });
    expect(between(30, 30.2, 100)).toBeNull();
  });

  it("are nudged by time, or by one sample", () => {
    expect(nudge(96000, false, false)).toBe(960);
    expect(nudge(96000, true, false)).toBe(9600);
    expect(nudge(96000, true, true)).toBe(1);
  });
});

describe("remedies and fades", () => {
  it("change only their own fields", () => {
    const cut = range(10, 90);
    const ring = {
      label: "Ring out",
      start_frame: null,
      end_frame: null,
      end: "ring",
      declick_ms: null,
      fade_out_s: null,
      silence_before_s: null,
      silence_after_s: null,
      tempo: null,
      target_lufs: null,
      changes: null,
      action: "",
    } as const;
    expect(remedied(cut, ring)).toEqual({ ...cut, edges: { ...edges, end: "ring" } });
    expect(remedied(cut, { ...ring, end: null, start_frame: 0 })).toEqual(range(0, 90));
    expect(remedied(cut, { ...ring, end: null, declick_ms: 3 }).edges.declick_ms).toBe(3);
    expect(remedied(cut, { ...ring, end: null, fade_out_s: 2 }).edges.fade_out_s).toBe(2);
  });

  it("reach the level of the one delivery that they are for", () => {
    const change = { level: null };
    const bench = {
      ranges: [],
      ticket: [
        { id: "a", changes: change },
        { id: "b", changes: change },
      ],
    };
    const row = { line_id: "b", settled: { level: { kind: "loudness", target: -6, max_reduction_db: 9 } } };
    const remedy = { label: "Take", start_frame: null, end_frame: null, end: null, declick_ms: null };
    const made = withRemedy(bench as never, row as never, { ...remedy, target_lufs: -8.6 } as never);
    const levels = made.ticket.map((line) => line.changes.level);
    expect(levels).toEqual([null, { kind: "loudness", target: -8.6, max_reduction_db: 9 }]);
    const smaller = { ...remedy, target_lufs: null, changes: { container: "aac", kbps: 128, level: null } };
    const fits = withRemedy(bench as never, row as never, smaller as never).ticket.map(
      (line) => line.changes,
    );
    expect(fits).toEqual([change, { level: null, container: "aac", kbps: 128 }]);
  });

  it("rise from nothing to one", () => {
    for (const curve of ["linear", "equal-power", "s", "logarithmic"] as const) {
      expect(fadeGain(curve, 0)).toBeCloseTo(0, 10);
      expect(fadeGain(curve, 1)).toBeCloseTo(1, 10);
    }
    expect(fadeGain("logarithmic", 0.5)).toBeCloseTo(0.0306, 3);
  });
});

describe("ranges and markers", () => {
  it("each have a name and a look of their own, and the last one stays", () => {
    let here = bench(0, 100);
    for (let count = 1; count < LOOKS; count++) here = withNewRange(here, 10 * count, 100, defaults).bench;
    expect(new Set(here.ranges.map((one) => one.look)).size).toBe(LOOKS);
    expect(new Set(here.ranges.map((one) => one.id)).size).toBe(LOOKS);
    const without = withoutRange(here, "r3");
    expect(withNewRange(without, 0, 5, defaults).bench.ranges.at(-1)?.look).toBe(here.ranges[2]?.look);
    expect(withoutRange(bench(0, 100), "r1").ranges).toHaveLength(1);
    expect(withRange(here, { ...range(1, 2), name: "Loop" }).ranges[0]?.name).toBe("Loop");
  });

  it("gives one delivery a copy of its range, and leaves the others on it", () => {
    const lines = ["a", "b"].map((id) => ({ id, brief: "archive", range_id: "r1" }) as TicketLine);
    const made = withOwnRange({ ...bench(0, 100), ticket: lines }, lines[1] as TicketLine, LOOKS);
    expect(made.ranges.map((one) => [one.id, one.start_frame, one.end_frame, one.look])).toEqual([
      ["r1", 0, 100, 0],
      ["r2", 0, 100, 1],
    ]);
    expect(made.ticket.map((one) => one.range_id)).toEqual(["r1", "r2"]);
  });

  it("are in order of time", () => {
    const two = withNewMarker(withNewMarker(bench(0, 100), 50.4), 20);
    expect(two.markers).toEqual([
      { frame: 20, name: "Marker 2" },
      { frame: 50, name: "Marker 1" },
    ]);
  });
});

describe("the ticket", () => {
  const two = withNewRange(
    withLines(bench(0, 100), ["audio-cd", "archive"], ["r1"], defaults),
    50,
    100,
    defaults,
  ).bench;
  const lines = (here: BenchState) => here.ticket.map((line) => `${line.range_id} ${line.brief}`);

  it("takes every range to every brief, and a new range where the others go", () => {
    expect(lines(two)).toEqual(["r1 audio-cd", "r1 archive", "r2 audio-cd", "r2 archive"]);
    expect(new Set(two.ticket.map((line) => line.id)).size).toBe(4);
    expect(lines(withoutRange(two, "r1"))).toEqual(["r2 audio-cd", "r2 archive"]);
    expect(lines(withRanges(two, [range(0, 7)], defaults))).toEqual(["r1 audio-cd", "r1 archive"]);
  });

  it("is copied, moved and thinned out line by line", () => {
    const [first] = two.ticket;
    if (!first) throw new Error("no delivery");
    expect(lines(withCopy(two, first)).slice(0, 2)).toEqual(["r1 audio-cd", "r1 audio-cd"]);
    expect(lines(withMoved(two, first.id, 1))[1]).toBe("r1 audio-cd");
    expect(withMoved(two, first.id, -1)).toEqual(two);
    expect(lines(withoutLine(two, first.id))).toHaveLength(3);
  });
});

it("a choice counts before the server has answered", () => {
  const row = { settled: { rate_hz: 44_100, sends_to: [], cover: true } } as unknown as Row;
  const line = {
    changes: { rate_hz: "keep", sends_to: ["Gallery"], cover: null, brief: "x" },
  } as unknown as TicketLine;
  expect(settledOf(row, line)).toEqual({ rate_hz: 44_100, sends_to: ["Gallery"], cover: true });
});
