import { useSyncExternalStore } from "react";

export type PlayerState =
  | { readonly status: "idle" }
  | {
      readonly status: "playing";
      readonly what: string;
      readonly startFrame: number;
      readonly endFrame: number;
      readonly rateHz: number;
    }
  | { readonly status: "failed"; readonly message: string };

/** The one voice of the page: plays a cut that the server makes, and knows at which frame of the mix it is. */
class Player {
  #state: PlayerState = { status: "idle" };
  #audio: HTMLAudioElement | null = null;
  #context: AudioContext | null = null;
  #sides: AnalyserNode[] = [];
  readonly #window = new Float32Array(2048);
  readonly #listeners = new Set<() => void>();

  get state(): PlayerState {
    return this.#state;
  }

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  play(what: string, url: string, startFrame: number, endFrame: number, rateHz: number): void {
    this.stop();
    const audio = new Audio(url);
    this.#audio = audio;
    audio.onended = () => this.#end(audio, { status: "idle" });
    audio.onerror = () =>
      this.#end(audio, { status: "failed", message: "This could not be played: the server sent no sound." });
    this.#set({ status: "playing", what, startFrame, endFrame, rateHz });
    this.#meter(audio);
    audio.play().catch((error: unknown) => {
      if (error instanceof DOMException && error.name === "AbortError") return;
      this.#end(audio, {
        status: "failed",
        message: "The browser did not play this. Click once and try again.",
      });
    });
  }

  stop(): void {
    const audio = this.#audio;
    if (!audio) return;
    this.#audio = null;
    audio.onended = null;
    audio.onerror = null;
    audio.pause();
    // Without a source the request ends, and the server stops cutting.
    audio.removeAttribute("src");
    audio.load();
    this.#set({ status: "idle" });
  }

  /** The frame that is heard now, or null when nothing plays. */
  position(): number | null {
    if (this.#state.status !== "playing" || !this.#audio) return null;
    return this.#state.startFrame + this.#audio.currentTime * this.#state.rateHz;
  }

  /** The largest sample of each side in the last moment that was heard; null when nothing plays. */
  peaks(): number[] | null {
    if (this.#state.status !== "playing" || !this.#sides.length) return null;
    return this.#sides.map((side) => {
      side.getFloatTimeDomainData(this.#window);
      return this.#window.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    });
  }

  /** Leads the sound past two meters on its way out. */
  #meter(audio: HTMLAudioElement): void {
    this.#context ??= new AudioContext();
    const context = this.#context;
    void context.resume();
    const source = context.createMediaElementSource(audio);
    const split = context.createChannelSplitter(2);
    source.connect(context.destination);
    source.connect(split);
    this.#sides = [0, 1].map((side) => {
      const analyser = context.createAnalyser();
      analyser.fftSize = this.#window.length;
      split.connect(analyser, side);
      return analyser;
    });
  }

  #end(audio: HTMLAudioElement, state: PlayerState): void {
    if (this.#audio !== audio) return;
    this.#audio = null;
    this.#set(state);
  }

  #set(state: PlayerState): void {
    this.#state = state;
    for (const listener of this.#listeners) listener();
  }
}

export const player = new Player();

export function usePlayer(): PlayerState {
  return useSyncExternalStore(player.subscribe, () => player.state);
}
