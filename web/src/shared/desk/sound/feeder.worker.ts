import type { FeederToPage, Loop, PageToFeeder, Piece, ToFeeder, ToMixer } from "./messages";
import { planned } from "./order";

const AHEAD_S = 2;
const BLOCK_S = 0.25;
const FIRST_BLOCK_S = 0.125;
const LEAST_S = 0.02;
const AT_ONCE = 2;
const PATIENCE_MS = 500;
const BYTES = 8;

/** Loads blocks of all sources in playing order, two requests at once, two seconds ahead. */
class Feeder {
  #url: string;
  readonly #rateHz: number;
  readonly #frames: number;
  readonly #voices: number;
  readonly #mixer: MessagePort;
  #gen = 0;
  #next: number | null = null;
  #loop: Loop | null = null;
  #first = true;
  #sent = 0;
  #played = 0;
  #underWay = 0;
  #line: Promise<void> = Promise.resolve();
  #stop = new AbortController();
  #troubled = false;

  constructor(open: Extract<PageToFeeder, { kind: "open" }>) {
    this.#url = open.url;
    this.#rateHz = open.rateHz;
    this.#frames = open.frames;
    this.#voices = open.voices;
    this.#mixer = open.port;
    open.port.onmessage = ({ data }: MessageEvent<ToFeeder>) => {
      if (data.gen !== this.#gen) return;
      this.#played = data.frames;
      this.#bring();
    };
  }

  seek(frame: number, loop: Loop | null, url: string): void {
    this.#url = url;
    this.#stop.abort();
    this.#stop = new AbortController();
    this.#gen += 1;
    this.#next = Math.max(0, Math.min(frame, this.#frames - 1));
    this.#loop = loop;
    this.#first = true;
    this.#sent = 0;
    this.#played = 0;
    this.#underWay = 0;
    this.#line = Promise.resolve();
    this.#say({ kind: "seek", gen: this.#gen });
    this.#bring();
  }

  #bring(): void {
    while (
      this.#next !== null &&
      this.#underWay < AT_ONCE &&
      this.#sent - this.#played < AHEAD_S * this.#rateHz
    ) {
      const wanted = Math.round((this.#first ? FIRST_BLOCK_S : BLOCK_S) * this.#rateHz);
      const least = Math.round(LEAST_S * this.#rateHz);
      const block = planned(this.#next, wanted, least, this.#frames, this.#loop);
      this.#first = false;
      this.#next = block.next;
      this.#sent += block.frames;
      this.#underWay += 1;
      const gen = this.#gen;
      const coming = this.#fetch(block.start, block.frames, this.#stop.signal);
      // In the order in which they were asked for, whichever comes first.
      this.#line = this.#line.then(async () => {
        const sound = await coming;
        if (gen !== this.#gen || sound === null) return;
        const { start, frames, seam } = block;
        const piece: Piece = { gen, start, frames, sound, seam, last: block.next === null };
        this.#say({ kind: "piece", piece }, [sound.buffer]);
        this.#underWay -= 1;
        this.#bring();
      });
    }
  }

  /** Retries while the server does not answer; null once the block is no longer needed. */
  async #fetch(
    start: number,
    frames: number,
    signal: AbortSignal,
  ): Promise<Float32Array<ArrayBuffer> | null> {
    while (!signal.aborted) {
      try {
        const answer = await fetch(`${this.#url}?start=${start}&frames=${frames}`, {
          signal,
          cache: "no-store",
        });
        if (answer.status === 404 || answer.status === 409) {
          tell({ kind: "gone" });
          return null;
        }
        if (answer.ok) {
          const bytes = await answer.arrayBuffer();
          if (bytes.byteLength === frames * this.#voices * BYTES) {
            if (this.#troubled) tell({ kind: "well" });
            this.#troubled = false;
            return new Float32Array(bytes);
          }
        }
        this.#trouble(`No audio from the server (${answer.status}). Retrying …`);
      } catch {
        if (signal.aborted) return null;
        this.#trouble("No answer from the server. Retrying …");
      }
      await new Promise((done) => setTimeout(done, PATIENCE_MS));
    }
    return null;
  }

  #trouble(sentence: string): void {
    this.#troubled = true;
    tell({ kind: "trouble", sentence });
  }

  #say(message: ToMixer, moved: Transferable[] = []): void {
    this.#mixer.postMessage(message, moved);
  }
}

function tell(message: FeederToPage): void {
  postMessage(message);
}

let feeder: Feeder | null = null;
self.onmessage = ({ data }: MessageEvent<PageToFeeder>) => {
  if (data.kind === "open") feeder = new Feeder(data);
  else feeder?.seek(data.frame, data.loop, data.url);
};
