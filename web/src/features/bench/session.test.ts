import { describe, expect, it } from "vitest";
import type { BenchState, Defaults, Mix, Row } from "../../api/client";
import { sharing, THE_MIX } from "./model";
import { benchSession, rowOf } from "./session";

const bench = {
  ranges: [
    { id: "r1", start_frame: 0, end_frame: 100, look: 0, name: "" },
    { id: "r2", start_frame: 50, end_frame: 90, look: 1, name: "" },
  ],
  markers: [],
  ticket: [
    { id: "d1", brief: "audio-cd", range_id: "r1", on: true },
    { id: "d2", brief: "archive", range_id: "r2", on: true },
  ],
} as unknown as BenchState;
const mix = { id: 1, content: "x", frames: 100, bench } as unknown as Mix;
const defaults = { edges: {}, changes: {}, looks: 6, targets: {} } as unknown as Defaults;
const row = (id: string) => ({ id, line_id: id.split(".")[0], range_id: "r1" }) as unknown as Row;
const begun = () => {
  const session = benchSession(mix, defaults);
  return { session, view: session.store.getState };
};

describe("a chosen station", () => {
  it("stays with its file when rows move, the second of a split too", () => {
    const { session, view } = begun();
    session.chooseStation(row("d2.right"), "depth");
    const { station } = view();
    expect(rowOf([row("d2.left"), row("d2.right"), row("d1")], station)?.id).toBe("d2.right");
    expect(rowOf([row("d1"), row("d2")], station)?.id).toBe("d2");
    expect(rowOf([row("d1")], station)?.id).toBe("d1");
    expect(rowOf([], station)).toBeUndefined();
  });

  it("goes along with the range that is chosen, and the other way round", () => {
    const { session, view } = begun();
    session.nextRange(1);
    expect([session.range().id, view().station.line]).toEqual(["r2", "d2"]);
    session.nextRange(1);
    expect(session.range().id).toBe("r1");
    session.chooseStation(row("d1"), "tags", "isrc");
    expect([view().rangeId, view().wantedField]).toEqual(["r1", "isrc"]);
  });
});

describe("the bench", () => {
  it("is undone step by step, and a new range or delivery is chosen at once", () => {
    const { session, view } = begun();
    session.addRange(10, 20);
    expect(session.range()).toMatchObject({ start_frame: 10, end_frame: 20 });
    session.addLines(["podcast"], ["r1"], [THE_MIX]);
    expect(session.bench().ticket.at(-1)?.id).toBe(view().station.line);
    expect(session.setEdge("end", 300, "r1")).toBeNull();
    expect(session.bench().ranges[0]?.end_frame).toBe(100);
    // An edge on the other one changes nothing, and says why.
    expect(session.setEdge("start", 100, "r1")).toMatch("before range end");
    expect([session.bench().ranges[0]?.start_frame, view().notice]).toEqual([
      0,
      expect.stringContaining("before"),
    ]);
    session.undo();
    session.undo();
    expect(session.bench()).toEqual(bench);
    session.redo();
    expect(session.bench().ranges).toHaveLength(3);
  });

  it("changes all deliveries that share a station in one step, or one of them", () => {
    const { session } = begun();
    const node = (kind: string, at: number) => ({ kind, node: at });
    const rows = [
      { id: "d1", line_id: "d1", stations: [node("rate", 2), node("depth", 3)] },
      { id: "d2.left", line_id: "d2", stations: [node("rate", 2), node("depth", 4)] },
      { id: "d2.right", line_id: "d2", stations: [node("rate", 2), node("depth", 4)] },
    ] as unknown as Row[];
    const [first] = rows as [Row];
    expect(sharing(rows, first, "rate")).toEqual(["d1", "d2"]);
    expect(sharing(rows, first, "depth")).toEqual(["d1"]);
    expect(sharing(rows, first, "level")).toEqual(["d1"]);
    session.editLines(["d1", "d2"], (line) => ({ ...line, group: "pair" }));
    expect(session.bench().ticket.map((line) => line.group)).toEqual(["pair", "pair"]);
    session.undo();
    expect(session.bench()).toEqual(bench);
  });

  it("adopts changes made elsewhere, and keeps unsent ones", () => {
    const { session } = begun();
    const elsewhere = { ...bench, tags: [["title", "Millrace"]] } as unknown as BenchState;
    session.keep(elsewhere);
    expect(session.bench()).toEqual(elsewhere);
    session.undo();
    expect(session.bench()).toEqual(bench);
    session.switchLine("d1", false);
    const mine = session.bench();
    session.keep(elsewhere);
    expect(session.bench()).toEqual(mine);
  });
});
