import { describe, expect, it } from "vitest";
import type { Piece } from "./messages";
import { CEILING, Mixing } from "./mixing";

const RATE = 48_000;
const RAMP = 240;

/** Every frame holds its position on the left, and its source on the right. */
function piece(start: number, frames: number, voices: number, more: Partial<Piece> = {}): Piece {
  const sound = new Float32Array(voices * frames * 2);
  for (let voice = 0; voice < voices; voice++) {
    for (let frame = 0; frame < frames; frame++) {
      const at = (voice * frames + frame) * 2;
      sound[at] = (start + frame) / 2 ** 22 - 0.5;
      sound[at + 1] = (voice + 1) / 16;
    }
  }
  return { gen: 1, start, frames, sound, seam: false, last: false, ...more };
}

const placeOf = (left: number) => (left + 0.5) * 2 ** 22;

function run(mixing: Mixing, quanta: number): { left: Float32Array; right: Float32Array } {
  const left = new Float32Array(quanta * 128);
  const right = new Float32Array(quanta * 128);
  for (let at = 0; at < quanta; at++) {
    mixing.process(left.subarray(at * 128, (at + 1) * 128), right.subarray(at * 128, (at + 1) * 128));
  }
  return { left, right };
}

function playing(voices = 2, ...pieces: Piece[]): Mixing {
  const mixing = new Mixing(voices, RATE);
  mixing.seek(1);
  for (const one of pieces) mixing.add(one);
  mixing.weigh([1], false);
  mixing.play();
  return mixing;
}

const steps = (values: Float32Array) =>
  Array.from(values.subarray(1), (one, at) => Math.abs(one - (values[at] ?? 0)));

describe("the output", () => {
  it("equals the input to the bit after its fade-in, across pieces of any length", () => {
    const mixing = playing(2, piece(1000, 301, 2), piece(1301, 5000, 2), piece(6301, 500, 2));
    const { left, right } = run(mixing, 30);
    for (let at = RAMP; at < left.length; at++) expect(placeOf(left[at] ?? 0)).toBe(1000 + at);
    expect(new Set(right.subarray(RAMP))).toEqual(new Set([1 / 16]));
    expect(Math.max(...steps(right.subarray(0, RAMP)))).toBeLessThanOrEqual(1 / 16 / RAMP + 1e-7);
  });

  it("is silence before playback and after a pause, without a step", () => {
    const mixing = playing(1, piece(0, 9000, 1), piece(9000, 9000, 1));
    mixing.pause();
    expect(run(mixing, 4).right.every((one) => one === 0)).toBe(true);
    mixing.play();
    run(mixing, 10);
    mixing.pause();
    const { right } = run(mixing, 5);
    expect(Math.max(...steps(right))).toBeLessThanOrEqual(1 / 16 / RAMP + 1e-7);
    expect(right.at(-1)).toBe(0);
    const stopped = mixing.place;
    run(mixing, 5);
    expect(mixing.place).toBe(stopped);
    mixing.play();
    const again = run(mixing, 4).left;
    expect(placeOf(again[RAMP] ?? 0)).toBe(stopped + RAMP);
  });
});

describe("switching", () => {
  it("switches sources in 5 ms, in place, without silence", () => {
    const mixing = playing(3, piece(0, 20_000, 3), piece(20_000, 20_000, 3));
    run(mixing, 4);
    for (const slot of [1, 2, 0, 2]) {
      const before = mixing.place;
      mixing.weigh(
        [0, 1, 2].map((one) => (one === slot ? 1 : 0)),
        false,
      );
      const { left, right } = run(mixing, 4);
      expect(Math.max(...steps(right))).toBeLessThanOrEqual(2 / 16 / RAMP + 1e-7);
      expect(right.every((one) => one > 0)).toBe(true);
      expect(right[RAMP]).toBe((slot + 1) / 16);
      expect(placeOf(left[RAMP] ?? 0)).toBe(before + RAMP);
    }
  });

  it("sixty times in a second leaves no step larger than that of a ramp", () => {
    const mixing = playing(2, piece(0, 60_000, 2), piece(60_000, 1, 2));
    run(mixing, 4);
    const heard: number[] = [];
    for (let at = 0; at < 60; at++) {
      mixing.weigh(at % 2 ? [1, 0] : [0, 1], false);
      heard.push(...run(mixing, 1 + (at % 3)).right);
    }
    expect(Math.max(...steps(Float32Array.from(heard)))).toBeLessThanOrEqual(1 / 16 / RAMP + 1e-7);
  });
});

describe("the difference", () => {
  it("of two equal sources is silence at any gain", () => {
    const same = piece(0, 4000, 2);
    same.sound.copyWithin(8000, 0, 8000);
    const mixing = playing(2, same, piece(4000, 10, 2));
    mixing.weigh([2 ** 16, -(2 ** 16)], true);
    const { left, right } = run(mixing, 20);
    expect(left.subarray(RAMP).every((one) => one === 0)).toBe(true);
    expect(right.subarray(RAMP).every((one) => one === 0)).toBe(true);
  });

  it("of a 24-bit mix and its 16 bits is exact, and magnified by doublings", () => {
    const two = piece(0, 4000, 2);
    for (let at = 0; at < 8000; at++) {
      const whole = Math.round(Math.sin(at) * 2 ** 22);
      two.sound[at] = whole / 2 ** 23;
      two.sound[8000 + at] = Math.round(whole / 256) / 2 ** 15;
    }
    const mixing = playing(2, two, piece(4000, 10, 2));
    mixing.weigh([2 ** 8, -(2 ** 8)], true);
    const { left } = run(mixing, 20);
    for (let at = RAMP; at < left.length; at++) {
      expect(left[at]).toBe(256 * ((two.sound[at * 2] ?? 0) - (two.sound[8000 + at * 2] ?? 0)));
    }
  });
});

describe("the guard", () => {
  it("limits amplified audio at its ceiling, and is silent when off", () => {
    const mixing = playing(1, piece(0, 60_000, 1), piece(60_000, 10, 1));
    run(mixing, 4);
    mixing.weigh([2 ** 10], true);
    const loud = run(mixing, 40);
    expect(Math.max(...loud.left.map(Math.abs), ...loud.right)).toBeLessThanOrEqual(
      Math.fround(CEILING) + 1e-7,
    );
    expect(mixing.lowestGuard).toBeLessThan(0.01);
    mixing.weigh([1], false);
    const after = run(mixing, 300);
    expect(Math.max(...after.left.map(Math.abs), ...after.right)).toBeLessThanOrEqual(
      Math.fround(CEILING) + 1e-7,
    );
    // And once it is open again, what leaves is what came in.
    expect(after.right.at(-1)).toBe(1 / 16);
  });

  it("does not change audio without amplification", () => {
    const hot = piece(0, 4000, 1);
    hot.sound.fill(1.4);
    const mixing = playing(1, hot, piece(4000, 10, 1));
    const { left } = run(mixing, 20);
    expect(left[RAMP]).toBe(Math.fround(1.4));
  });
});

describe("places", () => {
  it("after a seek come from where it went, and nothing of before is heard", () => {
    const mixing = playing(1, piece(0, 30_000, 1), piece(30_000, 30_000, 1));
    run(mixing, 8);
    mixing.seek(2);
    mixing.add(piece(500, 10, 1));
    mixing.add(piece(90_000, 9_000, 1, { gen: 2 }));
    mixing.add(piece(99_000, 9_000, 1, { gen: 2 }));
    const { left, right } = run(mixing, 12);
    expect(Math.max(...steps(right))).toBeLessThanOrEqual(1 / 16 / RAMP + 1e-7);
    expect(right[RAMP]).toBeLessThan(2 / 16 / RAMP);
    expect(placeOf(left[2 * RAMP] ?? 0)).toBe(90_000 + RAMP);
    expect(mixing.gen).toBe(2);
  });

  it("at the seam of a loop wrap exactly, faded out and in", () => {
    const loop = { seam: true };
    const mixing = playing(
      1,
      piece(100, 4800, 1, loop),
      piece(100, 4800, 1, loop),
      piece(100, 4800, 1, loop),
    );
    const { left, right } = run(mixing, 80);
    expect(placeOf(left[4800 + 2 * RAMP] ?? 0)).toBe(100 + 2 * RAMP);
    expect(right[4800 - 1]).toBeCloseTo(0, 6);
    expect(Math.max(...steps(right))).toBeLessThanOrEqual(1 / 16 / RAMP + 1e-7);
  });

  it("end with the last piece, to its last frame", () => {
    const mixing = playing(1, piece(0, 1000, 1), piece(1000, 500, 1, { last: true }));
    const { left } = run(mixing, 20);
    expect(placeOf(left[1499] ?? 0)).toBe(1499);
    expect(left[1500]).toBe(0);
    expect(mixing.ended).toBe(true);
    expect(mixing.starved).toBe(false);
  });
});

describe("starving", () => {
  it("is faded into, and left when half a second is held", () => {
    const mixing = playing(1, piece(0, 6000, 1));
    const { right } = run(mixing, 60);
    expect(Math.max(...steps(right))).toBeLessThanOrEqual(1 / 16 / RAMP + 1e-7);
    expect([mixing.starved, mixing.sounding]).toEqual([true, false]);
    mixing.add(piece(6000, 12_000, 1));
    expect(run(mixing, 4).right.every((one) => one === 0)).toBe(true);
    mixing.add(piece(18_000, 12_000, 1));
    const { left } = run(mixing, 4);
    expect(placeOf(left[RAMP] ?? 0)).toBe(6000 + RAMP);
    expect([mixing.starved, mixing.sounding]).toEqual([false, true]);
  });
});
