import { api } from "../../api/client";
import { TILE_BINS } from "./geometry";

const MOST_TILES = 400;
const VALUES = 3;

/** Minimum and maximum of a stretch of one channel. */
export interface Extent {
  readonly low: number;
  readonly high: number;
  readonly power: number;
}

/** Tiles of one mix, fetched when first looked at and kept while they are of use. */
export class Tiles {
  readonly #mixId: number;
  readonly #content: string;
  readonly #channels: number;
  readonly #frames: number;
  readonly #changed: () => void;
  readonly #kept = new Map<string, Float32Array | null>();
  #last: { size: number; index: number; tile: Float32Array } | null = null;
  readonly #abort = new AbortController();

  constructor(mixId: number, content: string, channels: number, frames: number, changed: () => void) {
    this.#mixId = mixId;
    this.#content = content;
    this.#channels = channels;
    this.#frames = frames;
    this.#changed = changed;
  }

  dispose(): void {
    this.#abort.abort();
    this.#last = null;
    this.#kept.clear();
  }

  /** What lies between two frames, from bins of this size, or from coarser ones until those have come. */
  extent(framesPerBin: number, start: number, end: number, channel: number): Extent | null {
    let size = framesPerBin;
    for (let tries = 0; tries < 12; tries++) {
      const found = this.#read(size, start, end, channel, size === framesPerBin);
      if (found) return found;
      if (size >= this.#frames) return null;
      size *= 4;
    }
    return null;
  }

  #read(size: number, start: number, end: number, channel: number, wanted: boolean): Extent | null {
    const first = Math.max(0, Math.floor(start / size));
    const last = Math.min(Math.ceil(this.#frames / size), Math.max(first + 1, Math.ceil(end / size)));
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    let power = 0;
    for (let bin = first; bin < last; bin++) {
      const tile = this.#tile(size, Math.floor(bin / TILE_BINS), wanted);
      if (!tile) return null;
      const at = ((bin % TILE_BINS) * this.#channels + channel) * VALUES;
      low = Math.min(low, tile[at] ?? 0);
      high = Math.max(high, tile[at + 1] ?? 0);
      power += tile[at + 2] ?? 0;
    }
    return last > first ? { low, high, power: power / (last - first) } : null;
  }

  #tile(size: number, index: number, wanted: boolean): Float32Array | null {
    // Neighbouring columns mostly lie in the same tile.
    if (this.#last && this.#last.size === size && this.#last.index === index) return this.#last.tile;
    const key = `${size}/${index}`;
    const kept = this.#kept.get(key);
    if (kept) {
      // Most recently used last, so that the first keys are the ones to let go.
      this.#kept.delete(key);
      this.#kept.set(key, kept);
      this.#last = { size, index, tile: kept };
      return kept;
    }
    if (wanted && kept === undefined) this.#fetch(key, size, index);
    return null;
  }

  #fetch(key: string, size: number, index: number): void {
    this.#kept.set(key, null);
    api.tile(this.#mixId, this.#content, size, index, this.#abort.signal).then(
      (buffer) => {
        this.#kept.set(key, new Float32Array(buffer));
        for (const [old, tile] of this.#kept) {
          if (this.#kept.size <= MOST_TILES) break;
          if (tile) this.#kept.delete(old);
        }
        this.#changed();
      },
      () => {
        // Asked again when it is next looked at; the server may have been away.
        if (!this.#abort.signal.aborted) setTimeout(() => this.#kept.delete(key), 1000);
      },
    );
  }
}
