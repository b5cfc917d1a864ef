import { describe, expect, it } from "vitest";
import type { ShelfMix } from "../../api/client";
import { arranged, chosenWith } from "./arrange";

const mix = (id: number, title: string, more: Partial<ShelfMix> = {}): ShelfMix =>
  ({
    id, title, came_from: `/mixes/${title}.wav`, added_at: `2026-01-0${id}T00:00:00Z`, integrated_lufs: -14,
    pressed_at: null, changed_since: false, ...more,
  }) as ShelfMix; // biome-ignore format: one line reads best

const SHELF = [
  mix(1, "Millrace", { integrated_lufs: -12, pressed_at: "2026-02-01T00:00:00Z" }),
  mix(2, "Eel Ladder 10", { integrated_lufs: null, changed_since: true, pressed_at: "2026-02-02T00:00:00Z" }),
  mix(3, "Eel Ladder 9", { integrated_lufs: -20 }),
];
const names = (find: string, by: Parameters<typeof arranged>[2]["by"], turned = false) =>
  arranged(SHELF, find, { by, turned }).map((one) => one.id);

describe("the shelf in order", () => {
  it("sorts by each of its columns, the wanted end first", () => {
    expect(names("", "name")).toEqual([3, 2, 1]);
    expect(names("", "added")).toEqual([3, 2, 1]);
    expect(names("", "loudness")).toEqual([1, 3, 2]);
    expect(names("", "pressed")).toEqual([2, 1, 3]);
    expect(names("", "changed")).toEqual([2, 3, 1]);
    expect(names("", "loudness", true)).toEqual([2, 3, 1]);
  });
  it("finds by every word, in titles and in paths, whatever their case and accents", () => {
    expect(names("LADDER 9", "name")).toEqual([3]);
    expect(names("mixes mill", "name")).toEqual([1]);
    expect(names("nowhere", "name")).toEqual([]);
    expect(arranged([mix(4, "Écluse")], "ecluse", { by: "name", turned: false })).toHaveLength(1);
  });
});

describe("choosing", () => {
  it("takes one, or all from the last one on", () => {
    expect([...chosenWith(new Set(), [5, 6, 7, 8], 6, true, null)]).toEqual([6]);
    expect([...chosenWith(new Set([5]), [5, 6, 7, 8], 7, true, 5)]).toEqual([5, 6, 7]);
    expect([...chosenWith(new Set([5, 6, 7]), [5, 6, 7, 8], 6, false, 5)]).toEqual([7]);
    expect([...chosenWith(new Set(), [5, 6], 6, true, 99)]).toEqual([6]);
  });
});
