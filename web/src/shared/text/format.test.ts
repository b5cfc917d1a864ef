import { describe, expect, it } from "vitest";
import figures from "../../../../tests/core/figures.json";
import { bytes, channels, clock, counted, level, rate, seconds } from "./format";

describe("figures", () => {
  it("print as on the command line (tests/core/test_words.py checks the same list)", () => {
    for (const [frame, hz, decimals, text] of figures.clock as [number, number, number, string][])
      expect(clock(frame, hz, decimals)).toBe(text);
    for (const [db, unit, text] of figures.level as [number | null, string, string][])
      expect(level(db, unit)).toBe(text);
    for (const [hz, text] of figures.rate as [number, string][]) expect(rate(hz)).toBe(text);
    for (const [size, text] of figures.size as [number, string][]) expect(bytes(size)).toBe(text);
    for (const [count, noun, text] of figures.count as [number, string, string][])
      expect(counted(count, noun)).toBe(text);
  });

  it("name durations and channels", () => {
    expect([seconds(0.2), seconds(42), seconds(600), seconds(7200)]).toEqual([
      "under 1 s",
      "42 s",
      "10 min",
      "2 h",
    ]);
    expect([channels(1), channels(2), channels(6)]).toEqual(["mono", "stereo", "6 channels"]);
  });
});
