import type { MixerReport, PageToMixer, ToFeeder, ToMixer } from "./messages";
import { Mixing } from "./mixing";

// What an AudioWorklet finds around it; the type library of pages does not know it.
declare const currentFrame: number;
declare const sampleRate: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
  constructor(options?: unknown);
}
declare function registerProcessor(
  name: string,
  made: new (options: { readonly processorOptions: { readonly voices: number } }) => AudioWorkletProcessor,
): void;

/** Reports go out so often, in quanta of 128 frames, and whenever something jumps. */
const REPORT_EVERY = 16;
/** The first call comes alone, and hundreds of frames are missed behind it (measured): begin after the second. */
const SETTLED_AFTER = 2;

class Mixer extends AudioWorkletProcessor {
  readonly #mixing: Mixing;
  #feeder: MessagePort | null = null;
  #quanta = 0;

  constructor(options: { readonly processorOptions: { readonly voices: number } }) {
    super(options);
    this.#mixing = new Mixing(options.processorOptions.voices, sampleRate);
    this.port.onmessage = ({ data }: MessageEvent<PageToMixer>) => this.#receive(data);
  }

  process(_inputs: unknown, outputs: readonly (readonly Float32Array[])[]): boolean {
    const [left, right] = outputs[0] ?? [];
    this.#quanta += 1;
    if (!left || !right || this.#quanta < SETTLED_AFTER) return true;
    const place = this.#mixing.place;
    const gen = this.#mixing.gen;
    const news = this.#mixing.process(left, right);
    if (news || this.#quanta % REPORT_EVERY === 0)
      this.#report(gen === this.#mixing.gen && !news ? place : null);
    return true;
  }

  /** ``place`` is that of the first frame of this quantum; where it jumped within it, that of the next one. */
  #report(place: number | null): void {
    const mixing = this.#mixing;
    const report: MixerReport = {
      gen: mixing.gen,
      place: place ?? mixing.place,
      contextFrame: currentFrame + (place === null ? 128 : 0),
      sounding: mixing.sounding,
      starved: mixing.starved,
      ended: mixing.ended,
      guard: mixing.lowestGuard,
    };
    mixing.lowestGuard = 1;
    this.port.postMessage(report);
    const played: ToFeeder = { kind: "played", gen: mixing.gen, frames: mixing.played };
    this.#feeder?.postMessage(played);
  }

  #receive(message: PageToMixer): void {
    if (message.kind === "play") this.#mixing.play();
    else if (message.kind === "pause") this.#mixing.pause();
    else if (message.kind === "weigh") this.#mixing.weigh(message.weights, message.guarded);
    else {
      this.#feeder = message.port;
      message.port.onmessage = ({ data }: MessageEvent<ToMixer>) => {
        if (data.kind === "piece") this.#mixing.add(data.piece);
        else this.#mixing.seek(data.gen);
      };
    }
  }
}

registerProcessor("desk-mixer", Mixer);
