import { describe, expect, it } from "vitest";
import { bytes, channels, clock, level, rate, seconds } from "./format";

describe("figures", () => {
  it("are times that carry over once, after rounding", () => {
    expect(clock(0, 48_000)).toBe("0:00.000");
    expect(clock(48_000 * 60 - 1, 48_000)).toBe("1:00.000");
    expect(clock(44_100 * 3_725, 44_100, 1)).toBe("1:02:05.0");
  });

  it("are levels with a sign, a real minus and their unit", () => {
    expect(level(-6.02)).toBe("−6.0 dBFS");
    expect(level(1.25, "dBTP")).toBe("+1.3 dBTP");
    expect(level(0.01, "dB")).toBe("0.0 dB");
    expect(level(null)).toBe("−∞ dBFS");
  });

  it("are rates, sizes and spans as they are spoken", () => {
    expect([rate(44_100), rate(96_000)]).toEqual(["44.1 kHz", "96 kHz"]);
    expect([bytes(999_900), bytes(26_700_000), bytes(4.2e9)]).toEqual(["999.9 kB", "26.7 MB", "4.20 GB"]);
    expect([seconds(0.2), seconds(42), seconds(600)]).toEqual(["under a second", "42 s", "10 min"]);
    expect([channels(1), channels(2), channels(6)]).toEqual(["mono", "stereo", "6 channels"]);
  });
});
