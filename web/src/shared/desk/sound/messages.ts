/** What page, feeder and mixer say to each other. Places are frames of the listening desk's timeline. */

/** A stretch of every source, slot after slot, both sides interleaved. */
export interface Piece {
  /** Counts seeks: what belongs to an earlier one is thrown away. */
  readonly gen: number;
  readonly start: number;
  readonly frames: number;
  readonly sound: Float32Array<ArrayBuffer>;
  /** Behind it the timeline jumps: the end of a loop. */
  readonly seam: boolean;
  /** Behind it there is nothing. */
  readonly last: boolean;
}

export type ToMixer =
  | { readonly kind: "piece"; readonly piece: Piece }
  | { readonly kind: "seek"; readonly gen: number };

export type ToFeeder = { readonly kind: "played"; readonly gen: number; readonly frames: number };

export type PageToMixer =
  | { readonly kind: "feeder"; readonly port: MessagePort }
  | { readonly kind: "play" }
  | { readonly kind: "pause" }
  | { readonly kind: "weigh"; readonly weights: readonly number[]; readonly guarded: boolean };

export interface Loop {
  readonly start: number;
  readonly end: number;
}

export type PageToFeeder =
  | {
      readonly kind: "open";
      readonly url: string;
      readonly rateHz: number;
      readonly frames: number;
      readonly voices: number;
      readonly port: MessagePort;
    }
  | { readonly kind: "seek"; readonly frame: number; readonly loop: Loop | null; readonly url: string };

/** How the mixer is: ``place`` is the frame that it gives out at ``quantum``, in frames that it gave out before. */
export interface MixerReport {
  readonly gen: number;
  readonly place: number;
  readonly contextFrame: number;
  readonly sounding: boolean;
  readonly starved: boolean;
  readonly ended: boolean;
  /** The lowest gain of the guard since the last report: 1 is untouched. */
  readonly guard: number;
}

export type FeederToPage =
  | { readonly kind: "gone" }
  | { readonly kind: "trouble"; readonly sentence: string }
  | { readonly kind: "well" };
