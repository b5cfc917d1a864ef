import { describe, expect, it } from "vitest";
import type { Mix, TagField } from "../../api/client";
import { brought, changedSheets, columnsOf, filled, filledDown, pasted, sheetsOf, textOf } from "./model";

const mix = (id: number, title: string, tags: [string, string][] = []) =>
  ({ id, title, bench: { tags } }) as Mix;
const MIXES = [mix(1, "Millrace", [["title", "Millrace"]]), mix(2, "Eel Ladder")];

describe("the grid of tag sheets", () => {
  it("fills a field of many mixes and counts them", () => {
    const next = filled(sheetsOf(MIXES), [1, 2], "track", "{n}/9");
    expect([textOf(next.get(1), "track"), textOf(next.get(2), "track")]).toEqual(["1/9", "2/9"]);
    expect(textOf(next.get(1), "title")).toBe("Millrace");
  });

  it("takes a field away when the text is empty", () => {
    expect(filled(sheetsOf(MIXES), [1], "title", "  ").get(1)).toEqual([]);
  });

  it("fills down from the first that has a text, and changes nothing when none has", () => {
    const sheets = sheetsOf(MIXES);
    expect(textOf(filledDown(sheets, [1, 2], "title").get(2), "title")).toBe("Millrace");
    expect(filledDown(sheets, [1, 2], "album")).toBe(sheets);
  });

  it("lays a copied block over the grid and leaves out what reaches past its end", () => {
    const at = { id: 1, field: "artist" };
    const next = pasted(sheetsOf(MIXES), [1, 2], ["title", "artist", "album"], at, "A\tB\tC\r\n\tD\nE\n");
    expect(next.get(1)).toEqual([
      ["title", "Millrace"],
      ["artist", "A"],
      ["album", "B"],
    ]);
    expect(next.get(2)).toEqual([["album", "D"]]);
    expect(next.size).toBe(2);
  });

  it("brings sheets to the mixes they name and tells what found none", () => {
    const read = [
      { mix: "EEL LADDER", values: [["artist", "The Sluicekeepers"]] as [string, string][] },
      { mix: "Nowhere", values: [] },
    ];
    const { sheets, lost } = brought(sheetsOf(MIXES), MIXES, read);
    expect(textOf(sheets.get(2), "artist")).toBe("The Sluicekeepers");
    expect(lost).toEqual(["Nowhere"]);
    expect(changedSheets(sheets, MIXES).map((one) => one.mix_id)).toEqual([2]);
  });

  it("does not call a sheet changed for its order", () => {
    const kept = [
      mix(3, "Long Pound", [
        ["title", "Long Pound"],
        ["artist", "The Sluicekeepers"],
      ]),
    ];
    const other = new Map([
      [
        3,
        [
          ["artist", "The Sluicekeepers"],
          ["title", "Long Pound"],
        ] as [string, string][],
      ],
    ]);
    expect(changedSheets(other, kept)).toEqual([]);
  });

  it("shows the usual columns first", () => {
    const fields = ["title", "lyrics", "isrc"].map((name) => ({ name }) as TagField);
    expect(columnsOf(fields, false).map((one) => one.name)).toEqual(["title", "isrc"]);
    expect(columnsOf(fields, true)).toHaveLength(3);
  });
});
