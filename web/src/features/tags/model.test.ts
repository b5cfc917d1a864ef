import { describe, expect, it } from "vitest";
import type { KeptSheet, TagField } from "../../api/client";
import {
  brought,
  changedSheets,
  columnsOf,
  editsBetween,
  filled,
  filledDown,
  pasted,
  sheetsOf,
  textOf,
  withEdits,
} from "./model";

const mix = (id: number, title: string, tags: [string, string][] = []) => ({ id, title, tags }) as KeptSheet;
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

  it("pastes a block into the grid and drops cells past its end", () => {
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

  it("matches sheets to mixes by name and reports the others", () => {
    const read = [
      { mix: "EEL LADDER", values: [["artist", "The Sluicekeepers"]] as [string, string][] },
      { mix: "Nowhere", values: [] },
    ];
    const { sheets, lost } = brought(sheetsOf(MIXES), MIXES, read);
    expect(textOf(sheets.get(2), "artist")).toBe("The Sluicekeepers");
    expect(lost).toEqual(["Nowhere"]);
    const kept = sheetsOf(MIXES);
    expect(changedSheets(kept, editsBetween(kept, sheets)).map((one) => one.mix_id)).toEqual([2]);
  });

  it("edits saved sheets, and keeps changes saved elsewhere", () => {
    const kept = sheetsOf(MIXES);
    const written = filled(filled(kept, [1], "title", ""), [1], "artist", "The Sluicekeepers");
    const edits = editsBetween(kept, written);
    expect(edits).toEqual(
      new Map([
        [
          1,
          [
            ["title", ""],
            ["artist", "The Sluicekeepers"],
          ],
        ],
      ]),
    );
    // The bench has kept an album since, and another mix has come.
    const later = sheetsOf([
      mix(1, "Millrace", [
        ["title", "Millrace"],
        ["album", "Nine Weirs"],
      ]),
      mix(3, "Long Pound"),
    ]);
    expect(changedSheets(later, edits)).toEqual([
      {
        mix_id: 1,
        values: [
          ["title", ""],
          ["artist", "The Sluicekeepers"],
        ],
      },
    ]);
    expect(editsBetween(written, withEdits(written, edits))).toEqual(new Map());
  });

  it("does not call a sheet changed for its order", () => {
    const sheet: [string, string][] = [
      ["title", "Long Pound"],
      ["artist", "The Sluicekeepers"],
    ];
    expect(editsBetween(new Map([[3, sheet]]), new Map([[3, [...sheet].reverse()]]))).toEqual(new Map());
  });

  it("shows the usual columns first", () => {
    const fields = ["title", "lyrics", "isrc"].map((name) => ({ name }) as TagField);
    expect(columnsOf(fields, false).map((one) => one.name)).toEqual(["title", "isrc"]);
    expect(columnsOf(fields, true)).toHaveLength(3);
  });
});
