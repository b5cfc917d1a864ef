import { describe, expect, it } from "vitest";
import { bpmOfTaps, withTap } from "./taps";

const tapped = (gaps: readonly number[]) => {
  let taps: number[] = [];
  let now = 1_000;
  for (const gap of [0, ...gaps]) {
    now += gap;
    taps = withTap(taps, now);
  }
  return taps;
};

describe("tapping a tempo", () => {
  it("needs four taps", () => {
    expect(bpmOfTaps(tapped([500, 500]))).toBeNull();
    expect(bpmOfTaps(tapped([500, 500, 500]))).toBe(120);
  });

  it("takes uneven hands and a missed tap", () => {
    expect(bpmOfTaps(tapped([710, 720, 712, 714, 1428, 714]))).toBeCloseTo(84, 0);
  });

  it("restarts after a pause", () => {
    expect(tapped([500, 500, 5_000])).toHaveLength(1);
  });
});
