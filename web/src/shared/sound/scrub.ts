import { player } from "./player";

const BLOCK_S = 3;
const GRAIN_S = 0.09;
const EDGE_S = 0.012;
const MOST_BLOCKS = 8;

/** Where a stretch of sound in seconds can be fetched. */
type UrlOf = (startS: number, endS: number) => string;

/** Scrubbing: short grains of the audio under the pointer, while it moves. */
export class Scrub {
  readonly #urlOf: UrlOf;
  readonly #lengthS: number;
  readonly #blocks = new Map<number, AudioBuffer | null>();
  #wanted: number | null = null;
  #until = 0;

  constructor(urlOf: UrlOf, lengthS: number) {
    this.#urlOf = urlOf;
    this.#lengthS = lengthS;
  }

  /** Plays the audio at a position, once it is loaded, unless the last grain is still playing. */
  move(seconds: number): void {
    this.#wanted = seconds;
    const number = Math.floor(seconds / BLOCK_S);
    const block = this.#blocks.get(number);
    if (block) this.#grain(block, seconds - number * BLOCK_S);
    else if (block === undefined) void this.#fetch(number);
  }

  /** The finger was lifted. */
  end(): void {
    this.#wanted = null;
  }

  #grain(block: AudioBuffer, at: number): void {
    const { context, input } = player.way();
    if (context.currentTime < this.#until || at >= block.duration) return;
    const source = context.createBufferSource();
    source.buffer = block;
    const shape = context.createGain();
    const now = context.currentTime;
    shape.gain.setValueAtTime(0, now);
    shape.gain.linearRampToValueAtTime(1, now + EDGE_S);
    shape.gain.setValueAtTime(1, now + GRAIN_S - EDGE_S);
    shape.gain.linearRampToValueAtTime(0, now + GRAIN_S);
    source.connect(shape);
    shape.connect(input);
    source.start(now, at, GRAIN_S);
    source.onended = () => shape.disconnect();
    // The next one begins as this one fades.
    this.#until = now + GRAIN_S - EDGE_S;
  }

  async #fetch(number: number): Promise<void> {
    const start = number * BLOCK_S;
    const end = Math.min(this.#lengthS, start + BLOCK_S + GRAIN_S);
    if (end <= start) return;
    this.#blocks.set(number, null);
    try {
      const answer = await fetch(this.#urlOf(start, end));
      const bytes = await answer.arrayBuffer();
      this.#blocks.set(number, await player.way().context.decodeAudioData(bytes));
      for (const old of this.#blocks.keys()) {
        if (this.#blocks.size <= MOST_BLOCKS) break;
        this.#blocks.delete(old);
      }
      if (this.#wanted !== null) this.move(this.#wanted);
    } catch {
      // It is fetched again when one comes by again.
      this.#blocks.delete(number);
    }
  }
}
