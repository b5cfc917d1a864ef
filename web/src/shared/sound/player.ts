import { useSyncExternalStore } from "react";
import { api } from "../../api/client";
import type { Reading } from "./meter";
import meterUrl from "./meter.worklet.ts?worker&url";

export type PlayerState =
  | { readonly status: "idle" }
  | {
      readonly status: "playing";
      readonly what: string;
      readonly startFrame: number;
      readonly endFrame: number;
      readonly rateHz: number;
      /** How often it is played in all. */
      readonly times: number;
    }
  | { readonly status: "failed"; readonly message: string };

/** What some browsers have: a context that comes out of a device of one's choice. */
type Sinking = AudioContext & { readonly setSinkId?: (device: string) => Promise<void> };

/** Below it nothing comes out at all. */
export const MUTE_DB = -60;
const gainOf = (db: number) => (db <= MUTE_DB ? 0 : 10 ** (Math.min(0, db) / 20));

/** The one player of the page: plays a cut made by the server, and knows its position in the mix. */
class Player {
  #state: PlayerState = { status: "idle" };
  #audio: HTMLAudioElement | null = null;
  #context: AudioContext | null = null;
  #input: AudioNode | null = null;
  #volume: GainNode | null = null;
  #volumeDb = 0;
  #output = "";
  #meter: AudioWorkletNode | null = null;
  #reading: Reading | null = null;
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

  /** Plays a cut; one repeated several `times` is a loop, and its positions restart each time. */
  play(what: string, url: string, startFrame: number, endFrame: number, rateHz: number, times = 1): void {
    this.stop();
    const audio = new Audio(url);
    this.#audio = audio;
    audio.onended = () => {
      // A loop that was sent to its end is sent again.
      if (times > 1 && this.#audio === audio) this.play(what, url, startFrame, endFrame, rateHz, times);
      else this.#end(audio, { status: "idle" });
    };
    audio.onerror = () =>
      this.#end(audio, { status: "failed", message: "Cannot play: no audio from the server." });
    this.#set({ status: "playing", what, startFrame, endFrame, rateHz, times });
    const { context, input } = this.way();
    context.createMediaElementSource(audio).connect(input);
    this.#reading = null;
    this.#meter?.port.postMessage("anew");
    audio.play().catch((error: unknown) => {
      if (error instanceof DOMException && error.name === "AbortError") return;
      this.#end(audio, {
        status: "failed",
        message: "Playback blocked by the browser. Click and try again.",
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
    const { startFrame, endFrame, rateHz, times } = this.#state;
    const gone = this.#audio.currentTime * rateHz;
    return startFrame + (times > 1 ? gone % (endFrame - startFrame) : gone);
  }

  /** The largest sample of each side in the last moment that was heard; null when nothing plays. */
  peaks(): number[] | null {
    if (this.#state.status !== "playing" || !this.#sides.length) return null;
    return this.#sides.map((side) => {
      side.getFloatTimeDomainData(this.#window);
      return this.#window.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    });
  }

  /** Loudness and true peak of the playback, updated ten times a second. */
  reading(): Reading | null {
    return this.#state.status === "playing" ? this.#reading : null;
  }

  /** The playback volume, in dB; measurements do not depend on it. */
  setVolume(db: number): void {
    this.#volumeDb = db;
    if (this.#volume) this.#volume.gain.value = gainOf(db);
  }

  /** Where it comes out: the number of a device, or nothing for the usual one. */
  async setOutput(device: string): Promise<void> {
    this.#output = device;
    if (this.#context) await (this.#context as Sinking).setSinkId?.(device);
  }

  /** The way that all sound of the page takes: past the meters, through the volume, out. */
  way(): { readonly context: AudioContext; readonly input: AudioNode } {
    if (this.#context && this.#input) {
      void this.#context.resume();
      return { context: this.#context, input: this.#input };
    }
    const context = new AudioContext();
    const input = context.createGain();
    // What has one channel is heard, and measured, from both sides.
    input.channelCount = 2;
    input.channelCountMode = "explicit";
    const volume = context.createGain();
    volume.gain.value = gainOf(this.#volumeDb);
    input.connect(volume);
    volume.connect(context.destination);
    const split = context.createChannelSplitter(2);
    input.connect(split);
    this.#sides = [0, 1].map((side) => {
      const analyser = context.createAnalyser();
      analyser.fftSize = this.#window.length;
      split.connect(analyser, side);
      return analyser;
    });
    this.#context = context;
    this.#input = input;
    this.#volume = volume;
    if (this.#output) void this.setOutput(this.#output).catch(() => undefined);
    void this.#measure(context, input);
    void context.resume();
    return { context, input };
  }

  /** Without it everything is heard all the same, and only its figures are missing. */
  async #measure(context: AudioContext, input: AudioNode): Promise<void> {
    try {
      const [filters] = await Promise.all([
        api.loudnessMeter(context.sampleRate),
        context.audioWorklet.addModule(meterUrl),
      ]);
      const meter = new AudioWorkletNode(context, "loudness-meter", {
        numberOfOutputs: 0,
        processorOptions: filters,
      });
      meter.port.onmessage = ({ data }: MessageEvent<Reading>) => {
        this.#reading = data;
      };
      input.connect(meter);
      this.#meter = meter;
    } catch {
      this.#meter = null;
    }
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
