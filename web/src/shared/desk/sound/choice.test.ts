import { describe, expect, it } from "vitest";
import type { DeskVoice } from "../../../api/client";
import { FIRST_CHOICE, levelDb, weightsOf } from "./choice";

const voice = (louder_db: number, loudness_lufs: number | null, gain_db = 0) =>
  ({ louder_db, loudness_lufs, gain_db }) as DeskVoice;
const VOICES = [voice(0, -14), voice(-2.3, -16.3, -2.3), voice(0.5, null, 0.5)];
const choice = (slot: number, more = {}) => ({ ...FIRST_CHOICE, slot, ...more });

describe("levels", () => {
  it("matched, are brought down to the quietest and never up", () => {
    const found = VOICES.map((_, slot) => levelDb(VOICES, slot, "matched"));
    expect(found[0]).toBeCloseTo(-2.3);
    expect(found[1]).toBe(0);
    expect(found[2]).toBeCloseTo(-2.8);
  });

  it("are normalised up and down; unmeasured ones are unchanged", () => {
    expect(VOICES.map((_, slot) => levelDb(VOICES, slot, -16))).toEqual([-2, expect.closeTo(0.3), 0]);
    expect(weightsOf(VOICES, choice(1, { levels: -14 })).guarded).toBe(true);
    expect(weightsOf(VOICES, choice(1, { levels: -23 })).guarded).toBe(false);
  });

  it("unchanged, give the exact input", () => {
    expect(weightsOf(VOICES, choice(1, { levels: "as-it-is" }))).toEqual({
      weights: [0, 1, 0],
      guarded: false,
    });
  });
});

describe("amplified sources", () => {
  it("is the mix as loud as the file, less the file, in doublings", () => {
    const { weights, guarded } = weightsOf(VOICES, choice(1, { hearing: "difference", differenceDb: 24 }));
    expect(weights[0]).toBeCloseTo(16 * 10 ** (-2.3 / 20));
    expect(weights.slice(1)).toEqual([-16, 0]);
    expect(guarded).toBe(true);
  });

  it("of the mix itself is nothing", () => {
    expect(weightsOf(VOICES, choice(0, { hearing: "difference" })).weights).toEqual([0, 0, 0]);
  });

  it("are the lowest bits of a source, limited", () => {
    expect(weightsOf(VOICES, choice(2, { hearing: "last-bits", bitsDb: 60 }))).toEqual({
      weights: [0, 0, 1024],
      guarded: true,
    });
  });
});
