import type { Piece } from "./messages";

const SIDES = 2;
const RAMP_S = 0.005;
const RESUME_S = 0.5;
/** Where the guard holds: −1 dBFS. */
export const CEILING = 10 ** (-1 / 20);
const RELEASE_S = 0.2;

/**
 * Sums sources with weights, without steps: weights and the master are ramped linearly, because all
 * sources are the same music. Outside of ramps what leaves is exactly what came in, times its
 * weight.
 *
 * A difference is two weights of opposite signs; whatever is magnified passes a guard without delay.
 */
export class Mixing {
  readonly #rampFrames: number;
  readonly #resumeFrames: number;
  readonly #release: number;
  readonly #weights: Float64Array;
  readonly #targets: Float64Array;
  readonly #steps: Float64Array;
  readonly #sum = new Float64Array(128 * SIDES);
  #pieces: Piece[] = [];
  #offset = 0;
  #wanted = false;
  /** How far the master is open, in frames of its ramp. */
  #master = 0;
  #guarded = false;
  #wasGuarded = false;
  #guard = 1;
  /** Of the seek that is heard, and of the one that is waited for. */
  gen = 0;
  #coming = 0;
  #starting = true;
  played = 0;
  starved = false;
  ended = false;
  lowestGuard = 1;

  constructor(voices: number, rateHz: number) {
    this.#rampFrames = Math.round(RAMP_S * rateHz);
    this.#resumeFrames = RESUME_S * rateHz;
    this.#release = 1 / (RELEASE_S * rateHz);
    this.#weights = new Float64Array(voices);
    this.#targets = new Float64Array(voices);
    this.#steps = new Float64Array(voices);
  }

  /** New weights, ramped to; ``guarded`` where they magnify. */
  weigh(weights: readonly number[], guarded: boolean): void {
    for (let slot = 0; slot < this.#targets.length; slot++) {
      const target = weights[slot] ?? 0;
      this.#targets[slot] = target;
      this.#steps[slot] = Math.abs(target - (this.#weights[slot] ?? 0)) / this.#rampFrames;
    }
    // Inaudible changes need no ramp.
    if (this.#master === 0) this.#weights.set(this.#targets);
    this.#wasGuarded ||= this.#guarded;
    this.#guarded = guarded;
  }

  add(piece: Piece): void {
    if (piece.gen === this.#coming) this.#pieces.push(piece);
  }

  play(): void {
    this.#wanted = true;
    if (this.ended) this.ended = false;
  }

  pause(): void {
    this.#wanted = false;
  }

  /** From now on only blocks of this seek are accepted; the current audio is faded out first. */
  seek(gen: number): void {
    this.#coming = gen;
    this.ended = false;
    if (this.#master === 0) this.#turn();
  }

  /** The place that is given out next. */
  get place(): number {
    const piece = this.#pieces[0];
    return piece ? piece.start + this.#offset : -1;
  }

  get sounding(): boolean {
    return this.#wanted && !this.starved && !this.#starting && !this.ended;
  }

  /** How many frames of the present seek are held. */
  get held(): number {
    return this.#pieces.reduce((sum, piece) => sum + piece.frames, 0) - this.#offset;
  }

  /** Fills both sides; true where the timeline jumped, began or stopped. */
  process(left: Float32Array, right: Float32Array): boolean {
    let at = 0;
    let news = false;
    while (at < left.length) {
      if (this.#coming !== this.gen && this.#master === 0) {
        this.#turn();
        news = true;
      }
      const piece = this.#pieces[0];
      if (!piece) {
        news = this.#starve() || news;
        break;
      }
      if (!this.#may()) break;
      news = news || this.#starting;
      this.#starting = false;
      const run = this.#next(piece, left.length - at);
      this.#mix(piece, left, right, at, run.frames, run.target);
      at += run.frames;
      this.#offset += run.frames;
      this.played += run.frames;
      if (this.#offset === piece.frames) news = this.#done(piece) || news;
    }
    left.fill(0, at);
    right.fill(0, at);
    return news;
  }

  /** The number of frames with constant direction of all ramps. */
  #next(piece: Piece, room: number): { readonly frames: number; readonly target: number } {
    const left = piece.frames - this.#offset;
    const run = Math.min(room, left);
    if (!this.#wanted || this.#coming !== this.gen) {
      return { frames: Math.min(run, Math.max(1, this.#master)), target: 0 };
    }
    // The end is faded where the timeline jumps behind it, or where nothing has come yet.
    if (!piece.seam && (piece.last || this.#pieces.length > 1)) return { frames: run, target: 1 };
    if (left <= this.#rampFrames) return { frames: run, target: 0 };
    return { frames: Math.min(run, left - this.#rampFrames), target: 1 };
  }

  #done(piece: Piece): boolean {
    this.#pieces.shift();
    this.#offset = 0;
    if (!piece.last) return piece.seam;
    this.ended = true;
    this.#wanted = false;
    this.#master = 0;
    return true;
  }

  #turn(): void {
    this.#pieces = this.#pieces.filter((piece) => piece.gen === this.#coming);
    this.gen = this.#coming;
    this.#offset = 0;
    this.played = 0;
    this.#starting = true;
    this.starved = false;
  }

  /** Nothing has come in time; true where that is new. */
  #starve(): boolean {
    this.#master = 0;
    if (!this.#wanted || this.#starting || this.starved || this.ended) return false;
    this.starved = true;
    return true;
  }

  /** Whether there is audio to play now; after an underrun, enough must be buffered first. */
  #may(): boolean {
    if (!this.#wanted && this.#master === 0) return false;
    if (this.starved) {
      if (this.held < this.#resumeFrames && !this.#pieces.some((piece) => piece.last)) return false;
      this.starved = false;
      this.#starting = true;
    }
    return true;
  }

  #mix(piece: Piece, left: Float32Array, right: Float32Array, at: number, run: number, target: number): void {
    const open = target * this.#rampFrames;
    const sum = this.#sum;
    sum.fill(0, 0, run * SIDES);
    const ramping = this.#ramping();
    for (let slot = 0; slot < this.#targets.length; slot++) this.#addVoice(piece, slot, run);
    // An amplified source stays limited until it is turned down and the limiter is open again.
    const guarded = this.#guarded || this.#guard < 1 || ramping;
    if (!guarded) this.#wasGuarded = false;
    const release = this.#guarded ? this.#release : 10 * this.#release;
    for (let frame = 0; frame < run; frame++) {
      if (this.#master < open) this.#master += 1;
      else if (this.#master > open) this.#master -= 1;
      const master = this.#master / this.#rampFrames;
      let x = (sum[frame * SIDES] ?? 0) * master;
      let y = (sum[frame * SIDES + 1] ?? 0) * master;
      if (guarded) {
        const most = Math.max(Math.abs(x), Math.abs(y));
        this.#guard = Math.min(1, this.#guard + release, most > 0 ? CEILING / most : 1);
        x *= this.#guard;
        y *= this.#guard;
        if (this.#guard < this.lowestGuard) this.lowestGuard = this.#guard;
      }
      left[at + frame] = x;
      right[at + frame] = y;
    }
  }

  #ramping(): boolean {
    return this.#wasGuarded && this.#weights.some((weight, slot) => weight !== this.#targets[slot]);
  }

  #addVoice(piece: Piece, slot: number, run: number): void {
    let weight = this.#weights[slot] ?? 0;
    const target = this.#targets[slot] ?? 0;
    // A muted source costs nothing.
    if (weight === 0 && target === 0) return;
    const { sound } = piece;
    const sum = this.#sum;
    const step = this.#steps[slot] ?? 0;
    let from = (slot * piece.frames + this.#offset) * SIDES;
    for (let frame = 0; frame < run; frame++, from += SIDES) {
      if (weight < target) weight = Math.min(target, weight + step);
      else if (weight > target) weight = Math.max(target, weight - step);
      sum[frame * SIDES] = (sum[frame * SIDES] ?? 0) + weight * (sound[from] ?? 0);
      sum[frame * SIDES + 1] = (sum[frame * SIDES + 1] ?? 0) + weight * (sound[from + 1] ?? 0);
    }
    this.#weights[slot] = weight;
  }
}
