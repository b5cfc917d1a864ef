import { describe, expect, it } from "vitest";
import type { Row, Station } from "../../../api/client";
import { columnsOf, layOut, ROOMY, repeated, rowHeight, TIGHT, widthsOf } from "./treeLayout";

const KINDS = ["source", "range", "rate", "name"];
const station = (node: number, at: number): Station => ({
  node,
  kind: KINDS[at] ?? "",
  label: "",
  detail: "",
  idle: false,
  sentence: "",
  figures: [],
});
const row = (...nodes: number[]) => ({ stations: nodes.map(station) }) as unknown as Row;

describe("the tree", () => {
  it("draws shared stations once, each after its input", () => {
    const cells = layOut([row(0, 1, 2, 3), row(0, 1, 2, 4), row(0, 1, 5, 6), row(0, 7, 8, 9)], KINDS);
    const found = cells.map((cell) => [cell.station.node, cell.row, cell.column, cell.parent]);
    expect(found).toEqual([
      [0, 0, 0, -1],
      [1, 0, 1, 0],
      [2, 0, 2, 1],
      [3, 0, 3, 2],
      [4, 1, 3, 2],
      [5, 2, 2, 1],
      [6, 2, 3, 5],
      [7, 3, 1, 0],
      [8, 3, 2, 7],
      [9, 3, 3, 8],
    ]);
  });

  it("draws the sides of a pair behind the level that they share", () => {
    const kinds = ["channels", "rate", "level", "sides"];
    const of = (node: number, kind: string) => ({ ...station(node, 0), kind });
    const pair = [4, 5].map((side) => ({
      stations: [of(1, "rate"), of(2, "level"), of(side, "channels")],
    })) as unknown as Row[];
    const summed = { stations: [of(7, "channels"), of(8, "rate")] } as unknown as Row;
    const found = layOut([...pair, summed], kinds).map((cell) => [cell.station.node, cell.column]);
    expect(found).toEqual([
      [1, 1],
      [2, 2],
      [4, 3],
      [5, 3],
      [7, 0],
      [8, 1],
    ]);
  });
});

describe("the widths of the tree", () => {
  const wide = (text: string) => text.length * 10;
  const cell = (column: number, kind: string, label: string, detail: string) => ({
    row: 0,
    column,
    parent: -1,
    station: { ...station(1, 0), kind, label, detail },
  });
  const columns = [
    { kind: "level", title: "Level" },
    { kind: "depth", title: "Depth" },
    { kind: "name", title: "File" },
  ];
  const kinds = columns.map((one) => one.kind);

  it("are those of the words, and a column that says the same in all rows shrinks to a mark", () => {
    const cells = [
      cell(0, "level", "−14.0 LUFS", "≈ +0.3 dB"),
      cell(0, "level", "−1.0 dBTP", ""),
      cell(1, "depth", "16 bits", "shaped"),
      cell(1, "depth", "16 bits", "shaped"),
    ];
    const shrunk = repeated(cells, kinds);
    expect([...shrunk]).toEqual(["depth"]);
    // Words wrap only where there is little room.
    expect(widthsOf(columns, cells, shrunk, "Mix", ROOMY, wide)).toBe(
      "minmax(120px, 120px) minmax(90px, 90px) minmax(160px, 1fr)",
    );
    expect(widthsOf(columns, cells, shrunk, "Mix", TIGHT, wide)).toBe(
      "minmax(63px, 113px) minmax(56px, 83px) minmax(150px, 1fr)",
    );
  });

  it("shrink nothing that stands alone", () => {
    expect(repeated([cell(1, "depth", "16 bits", "shaped")], kinds).size).toBe(0);
    expect(
      repeated([cell(1, "depth", "16 bits", "shaped"), cell(1, "depth", "16 bits", "triangular")], kinds)
        .size,
    ).toBe(0);
  });
});

describe("the rows of the tree", () => {
  it("are as high as lets all be seen, and have one line of words where two have no room", () => {
    expect(rowHeight(400, 8, "auto")).toEqual({ px: 46, compact: false });
    expect(rowHeight(500, 14, "auto")).toEqual({ px: 35, compact: false });
    expect(rowHeight(400, 14, "auto")).toEqual({ px: 28, compact: true });
    expect(rowHeight(400, 2, "compact")).toEqual({ px: 28, compact: true });
    expect(rowHeight(400, 24, "roomy")).toEqual({ px: 34, compact: false });
    expect(rowHeight(0, 0, "auto").px).toBe(28);
  });

  it("lose the column of the mix where there is little room, unless there are several", () => {
    const one = [row(0, 1, 2, 3), row(0, 4, 5, 6)];
    expect(columnsOf(one).map((column) => column.kind)).toEqual(KINDS);
    expect(columnsOf(one, true).map((column) => column.kind)).toEqual(KINDS.slice(1));
    expect(columnsOf([...one, row(7, 8, 9, 10)], true)).toHaveLength(4);
  });
});
