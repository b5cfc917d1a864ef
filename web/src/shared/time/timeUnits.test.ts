import { describe, expect, it } from "vitest";
import { beatFrames, printBars, printCd, printPlace, snapped } from "./timeUnits";

// Two bars of 4/4 and then 3/4, at 120 beats a minute and 48 kHz, from half a second on.
const bars = [
  { frame: 24_000, beats: 4 },
  { frame: 120_000, beats: 4 },
  { frame: 216_000, beats: 3 },
  { frame: 288_000, beats: 3 },
];

describe("times", () => {
  it("print in bars, by hand", () => {
    expect(printBars(bars, 24_000)).toBe("b1.1");
    expect(printBars(bars, 120_000 + 24_000 * 2 + 6_000)).toBe("b2.3.25");
    expect(printBars(bars, 288_000)).toBe("b4.1");
    expect(printBars(bars, 0)).toBeNull();
    expect(printPlace(0, "bars", 48_000, bars)).toBe("0:00.000");
    expect(beatFrames(bars, 2)).toEqual([216_000, 240_000, 264_000]);
  });

  it("print in CD frames of 588 samples at 44.1 kHz", () => {
    expect(printCd(588 * 75 * 61 + 588 * 7, 44_100)).toBe("1:01:07cdf");
    expect(printCd(587, 44_100)).toBe("0:00:00cdf");
  });
});

describe("snapping", () => {
  const to = { bars, markers: [1_000, 90_000], sound: [500, 300_000], rateHz: 48_000 };
  it.each([
    ["bars", 70_000, 24_000],
    ["bars", 73_000, 120_000],
    ["beats", 70_000, 72_000],
    ["markers", 40_000, 1_000],
    ["sound", 200_000, 300_000],
    ["cd", 1_000, 1_280],
    ["off", 777, 777],
  ] as const)("to %s from %i", (snap, from, there) => {
    expect(snapped(from, { ...to, snap })).toBe(there);
  });
});
