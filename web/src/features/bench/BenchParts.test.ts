import { describe, expect, it } from "vitest";
import { waveHeight } from "./BenchParts";

describe("the height of the waveform", () => {
  it("is what the ticket leaves of the window", () => {
    expect(waveHeight(800, 2, 1)).toBe(397);
    expect(waveHeight(800, 8, 1)).toBe(246);
    expect(waveHeight(1080, 8, 1)).toBe(526);
  });
  it("has a minimum, and leaves room for the ticket", () => {
    expect(waveHeight(600, 2, 1)).toBe(262);
    expect(waveHeight(1080, 24, 1)).toBe(235);
    expect(waveHeight(1440, 1, 1)).toBe(781);
    expect(waveHeight(1080, 24, 2)).toBe(263);
  });
});
