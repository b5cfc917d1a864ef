import { level } from "../text/format";
import type { DeskControl } from "./useDesk";

/** The selected source in players with loudness normalisation; a click plays all sources at that level. */
export function Plays({ control }: { control: DeskControl }) {
  const { desk, choice, choose } = control;
  const voice = desk.voices[choice.slot];
  if (!voice?.plays.length) return null;
  return (
    <section className="plays" aria-label="Loudness normalisation">
      <h2>Loudness normalisation</h2>
      <small>Playback level on services that normalise. Click to hear it.</small>
      <ul>
        {voice.plays.map((one) => {
          const on = choice.levels === one.level_lufs;
          return (
            <li key={one.level_lufs}>
              <button
                type="button"
                className={on ? "on" : ""}
                aria-pressed={on}
                onClick={() => choose({ levels: on ? "matched" : one.level_lufs, hearing: "whole" })}
              >
                at {level(one.level_lufs, "LUFS")}
              </button>{" "}
              {one.sentence}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
