import { describe, expect, it } from "vitest";
import type { Row } from "../../../api/client";
import { groupOf, groupsOf, linesOf } from "./treeGroups";

const row = (id: number, range: string, source = "Mix") =>
  ({
    id: `f${id}`,
    range_id: range,
    stations: [
      { kind: "source", label: source },
      { kind: "range", label: range.toUpperCase() },
    ],
  }) as unknown as Row;
const of = (...ranges: string[]) => ranges.map((range, at) => row(at, range));
const MANY_FILES = of(..."aaabbbbcccccc");

describe("a ticket of many files", () => {
  it("is overseen by its ranges, and few files are not", () => {
    expect(groupsOf(MANY_FILES).map((one) => [one.title, one.rows.length])).toEqual([
      ["A", 3],
      ["B", 4],
      ["C", 6],
    ]);
    expect(groupsOf(MANY_FILES.slice(0, 12))).toEqual([]);
    expect(groupsOf(of(..."aaaaaaaaaaaaaaa"))).toEqual([]);
  });
  it("names the part where there are several", () => {
    const parts = [...of(..."aaaaaaaaaaaa"), row(19, "a", "Bass")];
    expect(groupsOf(parts).map((one) => one.title)).toEqual(["Mix, A", "Bass, A"]);
  });
  it("draws a head for each, and the files of those that are open", () => {
    const groups = groupsOf(MANY_FILES);
    const lines = linesOf(MANY_FILES, groups, new Set([groups[1]?.key ?? ""]));
    expect(lines.map((one) => (one.head ? one.head.title : one.row.id))).toEqual([
      "A", "f0", "f1", "f2", "B", "C", "f7", "f8", "f9", "f10", "f11", "f12",
    ]); // biome-ignore format: one line reads best
    expect(linesOf(MANY_FILES.slice(0, 2), [], new Set())).toHaveLength(2);
    expect(groupOf(groups, MANY_FILES[4])?.title).toBe("B");
    expect(groupOf(groups, undefined)).toBeUndefined();
  });
});
