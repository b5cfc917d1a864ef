import { describe, expect, it } from "vitest";
import { Meter, type MeterFilters } from "./meter";

const RATE = 48_000;
/** ITU-R BS.1770-5, Annex 1, tables 1 and 2: the filters at 48 kHz, as printed there. */
const PRINTED: MeterFilters = {
  shelf: [1.53512485958697, -2.69169618940638, 1.19839281085285, -1.69065929318241, 0.73248077421585],
  high_pass: [-1.99004745483398, 0.99007225036621],
  between: [],
};

/** A sinc under a window, four times as fine: what the server sends, in small. */
const phases = (factor: number, taps: number) =>
  Array.from({ length: factor - 1 }, (_, phase) =>
    Array.from({ length: taps }, (_, tap) => {
      const at = tap - (taps / 2 - 1) - (phase + 1) / factor;
      const window = 0.5 * (1 + Math.cos((Math.PI * at) / (taps / 2)));
      return (at ? Math.sin(Math.PI * at) / (Math.PI * at) : 1) * window;
    }),
  );

const sine = (seconds: number, hz: number, dbfs: number, phase = 0) =>
  Float32Array.from(
    { length: RATE * seconds },
    (_, at) => 10 ** (dbfs / 20) * Math.sin((2 * Math.PI * hz * at) / RATE + phase),
  );

function heard(sound: Float32Array, filters = PRINTED) {
  const meter = new Meter(RATE, filters);
  let last = null;
  for (let at = 0; at < sound.length; at += 128) {
    const block = sound.subarray(at, at + 128);
    last = meter.process(block, block) ?? last;
  }
  return last;
}

describe("the playback meter", () => {
  it.each([-23, -33])(
    "reads a stereo sine of 1 kHz at %d dBFS as so many LUFS (EBU Tech 3341, cases 1 and 2)",
    (dbfs) => {
      const reading = heard(sine(4, 1000, dbfs));
      expect(Math.abs((reading?.momentary ?? 0) - dbfs)).toBeLessThan(0.1);
      expect(Math.abs((reading?.shortTerm ?? 0) - dbfs)).toBeLessThan(0.1);
    },
  );
  it("reads no short-term loudness before three seconds were heard, and none of silence", () => {
    expect(heard(sine(1, 1000, -20))?.shortTerm).toBeNull();
    expect(heard(new Float32Array(RATE * 4))).toMatchObject({
      momentary: null,
      shortTerm: null,
      truePeak: null,
    });
  });
  it("finds the peak between the samples (EBU Tech 3341, case 15: a quarter of the rate, at 45 degrees)", () => {
    const reading = heard(sine(1, RATE / 4, -6, Math.PI / 4), { ...PRINTED, between: phases(4, 32) });
    expect(reading?.truePeak ?? 0).toBeGreaterThan(-6.4);
    expect(reading?.truePeak ?? 0).toBeLessThan(-5.8);
    expect(20 * Math.log10(reading?.peaks[0] ?? 0)).toBeCloseTo(-9, 1);
  });
});
