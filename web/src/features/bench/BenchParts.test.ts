import { describe, expect, it } from "vitest";
import { waveHeight } from "./BenchParts";

describe("the height of the waveform", () => {
  it("is the window's height without the ticket's", () => {
    expect(waveHeight(800, 2)).toBe(360);
    expect(waveHeight(1080, 2)).toBe(564);
    expect(waveHeight(1080, 8)).toBe(364);
  });
  it("has a minimum, and leaves room for the ticket", () => {
    expect(waveHeight(600, 2)).toBe(352);
    expect(waveHeight(1080, 24)).toBe(352);
    expect(waveHeight(1440, 1)).toBe(780);
  });
});
