import { describe, expect, it } from "vitest";
import type { Finding, OrderEntry, Remedy, RunningOrder } from "../../api/client";
import {
  added,
  frames,
  gapOf,
  joinedToBefore,
  moved,
  readGap,
  remedied,
  room,
  textOf,
  without,
} from "./model";

const entry = (id: string, start: number, end: number, more: Partial<OrderEntry> = {}) =>
  ({
    id,
    mix: 1,
    start_frame: start,
    end_frame: end,
    title: id,
    runs_on: false,
    gap_frames: 150,
    tags: [],
    indexes: [],
    edges: { fade_in_s: 0, fade_out_s: 0, declick_ms: 0 },
    disc_text: [],
    pre_emphasis: false,
    may_copy: false,
    ...more,
  }) as unknown as OrderEntry;

const ORDER = {
  title: "Nine Weirs",
  entries: [entry("a", 0, 100), entry("b", 100, 300), entry("c", 0, 50, { mix: 2 })],
  level: { level: { kind: "leave", target: 0 }, together: "loudest" },
} as unknown as RunningOrder;

const DISCS = { 74: 333_000, 80: 359_849 };
const ids = (order: RunningOrder) => order.entries.map((one) => one.id).join("");
const finding = (action: Remedy["action"], at: number) =>
  ({
    rule: "level_jumps",
    verdict: "look",
    sentence: "",
    entry: at,
    remedy: { label: "Do it", action, start_frame: null, end_frame: null },
    disc: false,
  }) as Finding;

describe("a running order", () => {
  it("prints times in CD frames, before zero too", () => {
    expect([frames(0), frames(149), frames(333_000), frames(-80)]).toEqual([
      "0:00:00",
      "0:01:74",
      "74:00:00",
      "−0:01:05",
    ]);
    expect([gapOf(150), gapOf(151)]).toEqual(["2 s", "0:02:01"]);
  });

  it("reads a gap in every way that it is typed, and nothing else", () => {
    expect(["2", "2 s", "1.5s", "0:02", "0:02:10", "1:00", "0,5"].map(readGap)).toEqual([
      150, 150, 113, 150, 160, 4500, 38,
    ]);
    expect(["", "two", "0:60", "0:01:75", "-2"].map(readGap)).toEqual([null, null, null, null, null]);
  });

  it("is put in another order, and keeps every entry", () => {
    expect(ids(moved(ORDER, 0, 2))).toBe("bca");
    expect(ids(moved(ORDER, 2, 0))).toBe("cab");
    expect(moved(ORDER, 0, 3)).toBe(ORDER);
    expect(moved(ORDER, 0, -1)).toBe(ORDER);
    expect(ids(without(ORDER, 1))).toBe("ac");
  });

  it("gives an added entry an id of its own", () => {
    const more = added({ ...ORDER, entries: [entry("e2", 0, 1), entry("e3", 0, 1)] }, [
      entry("new", 5, 6),
      entry("new", 6, 7),
    ]);
    expect(more.entries.map((one) => one.id)).toEqual(["e2", "e3", "e4", "e5"]);
  });

  it("joins an entry to the one it continues, and keeps the cut as an index", () => {
    const joined = joinedToBefore(ORDER, 1);
    expect(joined.entries[0]).toMatchObject({ id: "a", start_frame: 0, end_frame: 300, indexes: [100] });
    expect(ids(joined)).toBe("ac");
    expect(joinedToBefore(ORDER, 2)).toBe(ORDER);
  });

  it("applies the remedy of a finding", () => {
    expect(remedied(ORDER, finding("run-on", 1)).entries[1]?.runs_on).toBe(true);
    expect(remedied(ORDER, finding("declick", 0)).entries[0]?.edges.declick_ms).toBe(10);
    expect(remedied(ORDER, finding("one-loudness", 1)).level).toMatchObject({
      together: "each",
      level: { target: -14 },
    });
    const trim = finding("", 1);
    const cut = { ...trim, remedy: { ...trim.remedy, start_frame: 120, end_frame: 250 } } as Finding;
    expect(remedied(ORDER, cut).entries[1]).toMatchObject({ start_frame: 120, end_frame: 250 });
    const coded = {
      ...ORDER,
      entries: ORDER.entries.map((one, at) => (at ? one : { ...one, tags: [["isrc", "QZ-WLT-26-00099"]] })),
    } as RunningOrder;
    expect(remedied(coded, finding("codes", 1)).entries.map((one) => textOf(one, "isrc"))).toEqual([
      "QZ-WLT-26-00099",
      "QZ-WLT-26-00100",
      "QZ-WLT-26-00101",
    ]);
  });

  it("describes the free time on a disc", () => {
    expect(room(333_000 - 4500, DISCS)).toBe(
      "1 min 0 s left on a 74-minute disc, 6 min 57 s on an 80-minute disc",
    );
    expect(room(340_000, DISCS)).toBe("4 min 24 s left on an 80-minute disc");
    expect(room(359_849 + 75, DISCS)).toBe("0:01:00 over an 80-minute disc");
  });
});
