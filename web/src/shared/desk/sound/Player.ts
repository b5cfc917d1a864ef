import type { FeederToPage, Loop, MixerReport, PageToFeeder, PageToMixer } from "./messages";
import mixerUrl from "./mixer.worklet.ts?worker&url";
import { fitted } from "./order";

/** The origin of audio blocks: a listening desk, or the trial of a blind test. */
export interface Sound {
  readonly url: string;
  readonly rateHz: number;
  readonly frames: number;
  readonly voices: number;
}

export type Status = "opening" | "ready" | "playing" | "waiting" | "gone" | "failed";

export interface Snapshot {
  readonly status: Status;
  /** Whether playback is requested, even before the first block. */
  readonly wanted: boolean;
  readonly sentence: string;
  readonly loop: Loop | null;
  /** By how much the guard held it down a moment ago, in dB; 0 is not at all. */
  readonly guardDb: number;
}

interface Anchor {
  readonly place: number;
  readonly contextFrame: number;
  readonly sounding: boolean;
}

const CLOSED: Snapshot = { status: "opening", wanted: false, sentence: "", loop: null, guardDb: 0 };

/**
 * Plays the sources of a listening desk: a mixer in the audio thread, fed by a worker; the page
 * only selects.
 *
 * Subscribed to like a store. The position is not part of the state, because it changes all the
 * time: ask ``place()``.
 */
export class Player {
  readonly sound: Sound;
  #url: string;
  #snapshot: Snapshot = CLOSED;
  readonly #listeners = new Set<() => void>();
  readonly #context: AudioContext;
  readonly #feeder: Worker;
  #node: AudioWorkletNode | null = null;
  #anchor: Anchor = { place: 0, contextFrame: 0, sounding: false };
  #gen = 0;
  #stopped = 0;
  #closed = false;
  #weights: readonly number[];
  #guarded = false;

  constructor(sound: Sound, place = 0) {
    this.sound = sound;
    this.#url = sound.url;
    this.#stopped = place;
    this.#weights = Array.from({ length: sound.voices }, (_, slot) => (slot === 0 ? 1 : 0));
    // At the rate of the mix: the browser never converts.
    this.#context = new AudioContext({ sampleRate: sound.rateHz, latencyHint: "interactive" });
    this.#context.onstatechange = () => this.#contextChanged();
    this.#feeder = new Worker(new URL("./feeder.worker.ts", import.meta.url), { type: "module" });
    this.#feeder.onmessage = ({ data }: MessageEvent<FeederToPage>) => this.#fed(data);
    void this.#open();
  }

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  snapshot = (): Snapshot => this.#snapshot;

  play(): void {
    if (this.#snapshot.status === "failed" || this.#closed) return;
    if (this.#stopped >= this.sound.frames - 1) this.seek(this.#snapshot.loop?.start ?? 0);
    this.#tell({ wanted: true, sentence: "" });
    void this.#context.resume();
    this.#post({ kind: "play" });
  }

  pause(): void {
    this.#stopped = this.place();
    this.#tell({ wanted: false });
    this.#post({ kind: "pause" });
  }

  toggle(): void {
    if (this.#snapshot.wanted) this.pause();
    else this.play();
  }

  seek(frame: number): void {
    const { loop } = this.#snapshot;
    const inside = loop && frame >= loop.start && frame < loop.end ? loop : null;
    this.#go(frame, inside);
  }

  /** Jumps to the start of a passage and loops it, or plays on after it. */
  hear(passage: Loop, looped: boolean): void {
    this.#go(passage.start, looped ? this.#fitted(passage) : null);
  }

  /** Loops a passage from the current position, if that is inside; null plays on after it. */
  loop(passage: Loop | null): void {
    const loop = passage && this.#fitted(passage);
    const place = this.place();
    this.#go(loop && (place < loop.start || place >= loop.end) ? loop.start : place, loop);
  }

  /** Other sound of the same shape, from its start; nothing of the old one is heard again. */
  from(url: string): void {
    this.#url = url;
    this.#go(this.#snapshot.loop?.start ?? 0, this.#snapshot.loop);
  }

  weigh(weights: readonly number[], guarded: boolean): void {
    this.#weights = weights;
    this.#guarded = guarded;
    this.#post({ kind: "weigh", weights, guarded });
  }

  /** The frame that is heard now, to well under a millisecond. */
  place(): number {
    const { place, contextFrame, sounding } = this.#anchor;
    if (!sounding || !this.#snapshot.wanted) return this.#stopped;
    const { contextTime = 0, performanceTime = 0 } = this.#context.getOutputTimestamp();
    const heard = contextTime + (performance.now() - performanceTime) / 1000;
    const at = place + heard * this.sound.rateHz - contextFrame;
    const { loop } = this.#snapshot;
    if (loop && at >= loop.end && place < loop.end) {
      return loop.start + ((at - loop.start) % (loop.end - loop.start));
    }
    return Math.max(0, Math.min(this.sound.frames, at));
  }

  close(): void {
    if (this.#closed) return;
    this.#closed = true;
    this.#feeder.terminate();
    this.#context.onstatechange = null;
    void this.#context.close();
    this.#listeners.clear();
  }

  async #open(): Promise<void> {
    try {
      await this.#context.audioWorklet.addModule(mixerUrl);
      if (this.#closed) return;
      const { voices } = this.sound;
      const node = new AudioWorkletNode(this.#context, "desk-mixer", {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: { voices },
      });
      this.#node = node;
      node.port.onmessage = ({ data }: MessageEvent<MixerReport>) => this.#report(data);
      node.onprocessorerror = () => this.#fail("Playback stopped. Reopen the listening desk.");
      node.connect(this.#context.destination);
      const { port1, port2 } = new MessageChannel();
      node.port.postMessage({ kind: "feeder", port: port1 } satisfies PageToMixer, [port1]);
      const { rateHz, frames } = this.sound;
      this.#ask({ kind: "open", url: this.#url, rateHz, frames, voices, port: port2 }, [port2]);
      this.weigh(this.#weights, this.#guarded);
      const { loop, wanted } = this.#snapshot;
      this.#go(this.#stopped, loop);
      if (wanted) this.#post({ kind: "play" });
      this.#tell({ status: wanted ? "waiting" : "ready" });
    } catch {
      if (!this.#closed) this.#fail("Playback needs AudioWorklet: open the page on localhost or over HTTPS.");
    }
  }

  #go(frame: number, loop: Loop | null): void {
    const whole = Math.max(0, Math.min(Math.round(frame), this.sound.frames - 1));
    this.#stopped = whole;
    this.#gen += 1;
    this.#anchor = { ...this.#anchor, sounding: false };
    this.#tell({ loop });
    if (this.#node) this.#ask({ kind: "seek", frame: whole, loop, url: this.#url });
    else this.#gen = 0;
  }

  #report(report: MixerReport): void {
    const guardDb = report.guard < 1 ? 20 * Math.log10(report.guard) : 0;
    if (report.ended && report.gen === this.#gen) {
      this.#stopped = this.sound.frames;
      this.#anchor = { ...this.#anchor, sounding: false };
      this.#tell({ status: "ready", wanted: false, guardDb });
      return;
    }
    // Blocks from before a seek do not give the position.
    const counts = report.gen === this.#gen && report.place >= 0;
    if (counts) this.#anchor = this.#anchored(report);
    const { wanted } = this.#snapshot;
    const status = !wanted ? "ready" : counts && report.sounding ? "playing" : "waiting";
    this.#tell({ status, guardDb });
  }

  /** The browser's own count of frames is stale now and then: a single report that disagrees is not believed. */
  #anchored(report: MixerReport): Anchor {
    const { place, contextFrame, sounding } = this.#anchor;
    const drift = report.place - report.contextFrame - (place - contextFrame);
    const jumped = sounding && report.sounding && Math.abs(drift) > 0 && Math.abs(drift) <= 256;
    if (jumped && this.#doubted !== drift) {
      this.#doubted = drift;
      return this.#anchor;
    }
    this.#doubted = 0;
    return { place: report.place, contextFrame: report.contextFrame, sounding: report.sounding };
  }
  #doubted = 0;

  #fed(message: FeederToPage): void {
    if (message.kind === "gone") this.#tell({ status: "gone", wanted: false });
    else this.#tell({ sentence: message.kind === "trouble" ? message.sentence : "" });
  }

  #contextChanged(): void {
    const state = this.#context.state as string;
    if (state === "running" || !this.#snapshot.wanted) return;
    if (state === "interrupted" || (state === "suspended" && this.#snapshot.status === "playing")) {
      this.pause();
      this.#tell({ status: "ready", sentence: "Playback stopped by the browser. Play again." });
    }
  }

  #fitted(passage: Loop): Loop {
    return fitted(passage, this.sound.rateHz, this.sound.frames);
  }

  #fail(sentence: string): void {
    this.#tell({ status: "failed", wanted: false, sentence });
  }

  #post(message: PageToMixer): void {
    this.#node?.port.postMessage(message);
  }

  #ask(message: PageToFeeder, moved: Transferable[] = []): void {
    this.#feeder.postMessage(message, moved);
  }

  #tell(change: Partial<Snapshot>): void {
    const next = { ...this.#snapshot, ...change };
    const same = (Object.keys(next) as (keyof Snapshot)[]).every((key) => next[key] === this.#snapshot[key]);
    if (same) return;
    this.#snapshot = next;
    for (const listener of this.#listeners) listener();
  }
}
