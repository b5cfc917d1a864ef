import { describe, expect, it } from "vitest";
import { binsFor, clampView, frameAt, reveal, ticks, wholeView, xOf, zoomAt } from "./geometry";

const FRAMES = 960_000;
const WIDTH = 1000;

describe("view", () => {
  it("shows the whole mix from edge to edge", () => {
    const view = wholeView(FRAMES, WIDTH);
    expect(frameAt(view, 0)).toBe(0);
    expect(frameAt(view, WIDTH)).toBe(FRAMES);
    expect(xOf(view, FRAMES / 2)).toBe(WIDTH / 2);
  });

  it("keeps the frame under the pointer while zooming", () => {
    const view = zoomAt(wholeView(FRAMES, WIDTH), 0.1, 300, FRAMES, WIDTH);
    expect(frameAt(view, 300)).toBeCloseTo(300 * 960, 6);
  });

  it("never shows less than single samples or more than the mix", () => {
    expect(clampView({ start: 0, framesPerPixel: 0 }, FRAMES, WIDTH).framesPerPixel).toBeCloseTo(1 / 24);
    expect(clampView({ start: -5, framesPerPixel: 1e9 }, FRAMES, WIDTH)).toEqual({
      start: 0,
      framesPerPixel: 960,
    });
    expect(clampView({ start: FRAMES, framesPerPixel: 1 }, FRAMES, WIDTH).start).toBe(FRAMES - WIDTH);
  });

  it("moves only for positions out of sight", () => {
    const view = { start: 0, framesPerPixel: 10 };
    expect(reveal(view, 5000, FRAMES, WIDTH)).toBe(view);
    expect(reveal(view, 500_000, FRAMES, WIDTH).start).toBe(495_000);
  });
});

describe("zoom steps", () => {
  it("are powers of four with at least one bin a pixel", () => {
    expect([0.3, 1, 3.9, 4, 300, 5000].map((fpp) => binsFor(fpp, FRAMES))).toEqual([1, 1, 1, 4, 256, 4096]);
  });
});

describe("ruler", () => {
  it("has round times far enough apart, with the decimals they need", () => {
    const whole = ticks(wholeView(FRAMES, WIDTH), WIDTH, 96_000);
    expect(whole.frames.slice(0, 3)).toEqual([0, 96_000, 192_000]);
    expect(whole.decimals).toBe(0);
    expect(ticks({ start: 0, framesPerPixel: 1 }, WIDTH, 96_000).decimals).toBe(3);
  });
});
