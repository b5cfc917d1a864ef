import { type Command, useCommands } from "../commands/commands";
import { PASSAGE_KEYS } from "./passages";
import type { DeskControl } from "./useDesk";
import type { PassageControl } from "./usePassages";

const STEP_S = 1;

/** Everything that can be done at the listening desk: by key, and from the palette. */
export function useDeskKeys(control: DeskControl | null, passages: PassageControl, blind: () => void): void {
  useCommands(control ? commandsOf(control, passages, blind) : []);
}

function commandsOf(control: DeskControl, passages: PassageControl, blind: () => void): readonly Command[] {
  const { desk, choice, choose } = control;
  const turn = (hearing: "difference" | "last-bits") =>
    choose({ hearing: choice.hearing === hearing ? "whole" : hearing });
  const move = (direction: 1 | -1) => (event?: KeyboardEvent) => {
    const seconds = direction * (event?.shiftKey ? 5 : 1) * STEP_S;
    control.player.seek(control.player.place() + seconds * desk.rate_hz);
  };
  const difference: Command = {
    name: "Difference on/off",
    key: "d",
    run: () => turn("difference"),
  };
  return [
    { name: "Play / stop", key: " ", run: () => control.player.toggle() },
    ...(choice.slot > 0 && desk.voices[0]?.kind === "mix" ? [difference] : []),
    { name: "Lowest bits on/off", key: "b", run: () => turn("last-bits") },
    {
      name: "Level matching on/off",
      key: "l",
      run: () => choose({ levels: choice.levels === "as-it-is" ? "matched" : "as-it-is" }),
    },
    { name: "Loop on/off", key: "r", run: () => passages.setLooped(!passages.looped) },
    { name: "Blind test", key: "x", run: blind },
    { name: "Back 1 s (Shift: 5 s)", key: "ArrowLeft", run: move(-1) },
    { name: "Forward 1 s (Shift: 5 s)", key: "ArrowRight", run: move(1) },
    { name: "Go to start", key: "Home", run: () => control.player.seek(0) },
    ...PASSAGE_KEYS.map(([name, words, key]) => ({
      name: `Play passage: ${words.toLowerCase()}`,
      key: key.toLowerCase(),
      run: () => passages.hear(name),
    })),
    ...desk.voices.slice(0, 10).map((voice, slot) => ({
      name: `Play ${voice.title}`,
      thing: "voice",
      key: String(slot),
      run: () => choose({ slot }),
    })),
  ];
}
