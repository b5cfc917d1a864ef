import type { ReactNode } from "react";
import type { DeskVoice } from "../../api/client";
import { channels, level, rate } from "../text/format";
import type { DeskControl } from "./useDesk";

/** The origin of a source, in a few words. */
export function madeOf(voice: DeskVoice): string {
  const depth =
    voice.codec === "pcm"
      ? `${voice.bit_depth}-bit`
      : voice.codec === "pcm-float"
        ? `${voice.bit_depth}-bit float`
        : voice.codec.toUpperCase();
  return `${rate(voice.rate_hz)} · ${depth}${voice.channels === 1 ? ` · ${channels(1)}` : ""}`;
}

export const loud = (voice: DeskVoice): string =>
  voice.loudness_lufs === null ? "" : ` · ${level(voice.loudness_lufs, "LUFS")}`;

/** More facts about a source. */
export type MoreOfVoice = (voice: DeskVoice) => { readonly mark?: ReactNode; readonly below?: ReactNode };

/** All sources of a listening desk, each with a key of its own; `more` adds facts about a file. */
export function Voices({ control, more }: { control: DeskControl; more?: MoreOfVoice | undefined }) {
  const { desk, choice, choose } = control;
  return (
    <div className="voices" role="radiogroup" aria-label="Sources">
      {desk.voices.map((voice) => {
        const { mark, below } = more?.(voice) ?? {};
        const chosen = voice.slot === choice.slot;
        return (
          // biome-ignore lint/a11y/useSemanticElements: a card with a verdict and a picture, not a dot with a label
          <button
            key={voice.slot}
            type="button"
            role="radio"
            aria-checked={chosen}
            className={`voice${chosen ? " chosen" : ""}`}
            onClick={() => choose({ slot: voice.slot })}
          >
            <kbd>{voice.slot < 10 ? voice.slot : "·"}</kbd>
            <span className="voice-title">
              {voice.title}
              {voice.kind === "mix" && <small> {voice.slot ? "other mix" : "mix"}</small>}
            </span>
            {mark}
            <small className="voice-made">
              {madeOf(voice)}
              {loud(voice)}
            </small>
            {voice.state === "decoding" && (
              <small className="voice-state">decoding {Math.floor(voice.part * 100)} %</small>
            )}
            {voice.state === "failed" && <small className="voice-state over">{voice.sentence}</small>}
            {below}
          </button>
        );
      })}
    </div>
  );
}
