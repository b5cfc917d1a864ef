/** Filters of a meter at one sample rate, as the server computes them for its own measures. */
export interface MeterFilters {
  /** (b0, b1, b2, a1, a2). */
  readonly shelf: readonly number[];
  /** (a1, a2) behind (1, −2, 1). */
  readonly high_pass: readonly number[];
  /** Phases that tell the signal between its samples. */
  readonly between: readonly (readonly number[])[];
}

export interface Reading {
  /** Loudness of the last 400 ms and of the last 3 s in LUFS; null is silence. */
  readonly momentary: number | null;
  readonly shortTerm: number | null;
  /** The highest since it was reset, in dBTP; null is silence. */
  readonly truePeak: number | null;
  /** The highest sample of each side since the last reading, linear. */
  readonly peaks: readonly [number, number];
}

const HOP_S = 0.1;
const [MOMENTARY_HOPS, SHORT_TERM_HOPS] = [4, 30];
const OFFSET_DB = -0.691;

/** Loudness and true peak of the playback, block by block: EBU Tech 3341's momentary and short-term windows. */
export class Meter {
  readonly #filters: MeterFilters;
  readonly #hop: number;
  readonly #sides = [new Side(), new Side()];
  readonly #taps: number;
  readonly #history: readonly [Float64Array, Float64Array];
  readonly #powers: number[] = [];
  #sum = 0;
  #count = 0;
  #truePeak = 0;
  #peaks: [number, number] = [0, 0];

  constructor(rateHz: number, filters: MeterFilters) {
    this.#filters = filters;
    this.#hop = Math.round(rateHz * HOP_S);
    this.#taps = filters.between[0]?.length ?? 0;
    this.#history = [new Float64Array(this.#taps), new Float64Array(this.#taps)];
  }

  /** Takes a block into account; gives a reading whenever another tenth of a second is full. */
  process(left: Float32Array, right: Float32Array): Reading | null {
    let reading: Reading | null = null;
    for (let at = 0; at < left.length; at++) {
      for (let side = 0; side < 2; side++) {
        const value = (side ? right[at] : left[at]) ?? 0;
        const weighted = (this.#sides[side] as Side).weighted(value, this.#filters);
        this.#sum += weighted * weighted;
        const size = Math.abs(value);
        if (size > (this.#peaks[side] ?? 0)) this.#peaks[side] = size;
        if (size > this.#truePeak) this.#truePeak = size;
        this.#between(this.#history[side] as Float64Array, value);
      }
      this.#count += 1;
      if (this.#count === this.#hop) reading = this.#read();
    }
    return reading;
  }

  #between(history: Float64Array, value: number): void {
    const taps = this.#taps;
    if (!taps) return;
    history.copyWithin(0, 1);
    history[taps - 1] = value;
    for (const phase of this.#filters.between) {
      let sum = 0;
      for (let tap = 0; tap < taps; tap++) sum += (history[tap] ?? 0) * (phase[tap] ?? 0);
      const size = Math.abs(sum);
      if (size > this.#truePeak) this.#truePeak = size;
    }
  }

  #read(): Reading {
    this.#powers.push(this.#sum / this.#hop);
    if (this.#powers.length > SHORT_TERM_HOPS) this.#powers.shift();
    const reading: Reading = {
      momentary: this.#loudness(MOMENTARY_HOPS),
      shortTerm: this.#loudness(SHORT_TERM_HOPS),
      truePeak: this.#truePeak > 0 ? 20 * Math.log10(this.#truePeak) : null,
      peaks: this.#peaks,
    };
    this.#peaks = [0, 0];
    this.#sum = 0;
    this.#count = 0;
    return reading;
  }

  #loudness(hops: number): number | null {
    if (this.#powers.length < hops) return null;
    const power = this.#powers.slice(-hops).reduce((sum, one) => sum + one, 0) / hops;
    return power > 1e-12 ? OFFSET_DB + 10 * Math.log10(power) : null;
  }
}

/** Two filters in a row, in the transposed second form. */
class Side {
  #s1 = 0;
  #s2 = 0;
  #h1 = 0;
  #h2 = 0;

  weighted(value: number, { shelf, high_pass }: MeterFilters): number {
    const [b0 = 0, b1 = 0, b2 = 0, a1 = 0, a2 = 0] = shelf;
    const [c1 = 0, c2 = 0] = high_pass;
    const one = b0 * value + this.#s1;
    this.#s1 = b1 * value - a1 * one + this.#s2;
    this.#s2 = b2 * value - a2 * one;
    const two = one + this.#h1;
    this.#h1 = -2 * one - c1 * two + this.#h2;
    this.#h2 = one - c2 * two;
    return two;
  }
}
