import { describe, expect, it } from "vitest";
import { waveHeight } from "./BenchParts";

describe("the height of the waveform", () => {
  it("is what the window has beside what the ticket needs", () => {
    expect(waveHeight(800, 2)).toBe(360);
    expect(waveHeight(1080, 2)).toBe(564);
    expect(waveHeight(1080, 8)).toBe(364);
  });
  it("is never less than what shows something, and never crowds the ticket out", () => {
    expect(waveHeight(600, 2)).toBe(352);
    expect(waveHeight(1080, 24)).toBe(352);
    expect(waveHeight(1440, 1)).toBe(780);
  });
});
