import { describe, expect, it } from "vitest";
import type { Range } from "../model";
import { bandAt, bandsHeight, stacked } from "./drawRange";
import { rulerTicks } from "./ruler";

const bars = Array.from({ length: 40 }, (_, at) => ({ frame: 24_000 + at * 96_000, beats: 4 }));
const view = (start: number, framesPerPixel: number) => ({ start, framesPerPixel });

describe("the ruler", () => {
  it("counts bars, fewer of them from afar, and beats from near", () => {
    const far = rulerTicks("bars", view(0, 4_000), 1000, 48_000, bars);
    expect(far.map((tick) => tick.label).slice(0, 3)).toEqual(["1", "3", "5"]);
    const near = rulerTicks("bars", view(24_000, 200), 1000, 48_000, bars);
    expect(near.slice(0, 6).map((tick) => tick.label)).toEqual(["1", "1|2", "1|3", "1|4", "2", "2|2"]);
    expect(near[1]?.frame).toBe(48_000);
  });

  it("falls back on time where there are no bars", () => {
    expect(rulerTicks("bars", view(0, 480), 1000, 48_000, [])[1]?.label).toBe("0:01");
  });

  it("shows CD frames and samples at round places", () => {
    const cd = rulerTicks("cd", view(0, 10), 1000, 44_100, []);
    expect(cd.map((tick) => tick.frame).slice(0, 3)).toEqual([0, 2940, 5880]);
    expect(cd[1]?.label).toBe("0:00:05cdf");
    const samples = rulerTicks("samples", view(0, 10), 1000, 44_100, []);
    expect(samples.map((tick) => tick.label).slice(0, 3)).toEqual(["0", "1,000", "2,000"]);
  });
});

describe("bands of ranges", () => {
  const range = (id: string, start_frame: number, end_frame: number) =>
    ({ id, start_frame, end_frame }) as unknown as Range;
  const bands = stacked([
    range("a", 0, 100),
    range("b", 100, 200),
    range("c", 50, 150),
    range("d", 210, 300),
  ]);

  it("lie below each other only where they overlap", () => {
    expect(bands.map((band) => band.row)).toEqual([0, 0, 1, 0]);
    expect(bandsHeight(bands)).toBe(18);
    expect(bandsHeight([])).toBe(0);
  });

  it("are found under a point", () => {
    expect(bandAt(bands, view(0, 1), 120, 3)).toBe("b");
    expect(bandAt(bands, view(0, 1), 120, 12)).toBe("c");
    expect(bandAt(bands, view(0, 1), 20, 12)).toBeNull();
  });
});
