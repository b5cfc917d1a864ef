import { describe, expect, it } from "vitest";
import { fitted, planned } from "./order";

/** The played positions, in order. */
function heard(from: number, blocks: number, frames: number, loop: { start: number; end: number } | null) {
  const found: [number, number][] = [];
  let at: number | null = from;
  for (let count = 0; count < blocks && at !== null; count++) {
    const block = planned(at, 100, 10, frames, loop);
    found.push([block.start, block.frames]);
    at = block.next;
  }
  return { found, at };
}

describe("the order of blocks", () => {
  it("runs to the end, and takes a short rest along", () => {
    expect(heard(0, 9, 305, null)).toEqual({
      found: [
        [0, 100],
        [100, 100],
        [200, 105],
      ],
      at: null,
    });
  });

  it("goes round in a loop, without a frame too few or too many", () => {
    const loop = { start: 50, end: 270 };
    const { found } = heard(180, 5, 1000, loop);
    expect(found).toEqual([
      [180, 90],
      [50, 100],
      [150, 100],
      [250, 20],
      [50, 100],
    ]);
    expect(planned(250, 100, 10, 1000, loop)).toMatchObject({ seam: true, next: 50 });
  });

  it("from after a loop continues to the end", () => {
    expect(planned(300, 100, 10, 350, { start: 0, end: 250 })).toEqual({
      start: 300,
      frames: 50,
      next: null,
      seam: false,
    });
  });
});

describe("a loop", () => {
  it("is at least a second long and lies inside", () => {
    expect(fitted({ start: 100, end: 200 }, 1000, 5000)).toEqual({ start: 100, end: 1100 });
    expect(fitted({ start: 4900, end: 4950 }, 1000, 5000)).toEqual({ start: 4000, end: 5000 });
    expect(fitted({ start: 10, end: 20 }, 1000, 600)).toEqual({ start: 0, end: 600 });
  });
});
