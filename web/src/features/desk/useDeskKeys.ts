import { useKeys } from "../../shared/keys";
import { PASSAGE_KEYS } from "./passages";
import type { DeskControl } from "./useDesk";
import type { PassageControl } from "./usePassages";

const STEP_S = 1;

/** Every key of the listening desk. */
export function useDeskKeys(control: DeskControl | null, passages: PassageControl, blind: () => void): void {
  const turn = (hearing: "difference" | "last-bits") => {
    if (control) control.choose({ hearing: control.choice.hearing === hearing ? "whole" : hearing });
  };
  const move = (seconds: number) => {
    if (control) control.player.seek(control.player.place() + seconds * control.desk.rate_hz);
  };
  const slots = Array.from({ length: 10 }, (_, slot) => [
    String(slot),
    () => {
      if (control && slot < control.desk.voices.length) control.choose({ slot });
    },
  ]);
  const places = PASSAGE_KEYS.map(([name, , key]) => [key.toLowerCase(), () => passages.hear(name)]);
  useKeys({
    " ": () => control?.player.toggle(),
    d: () =>
      control && control.choice.slot > 0 && control.desk.voices[0]?.kind === "mix" && turn("difference"),
    b: () => turn("last-bits"),
    l: () => control?.choose({ levels: control.choice.levels === "as-it-is" ? "matched" : "as-it-is" }),
    r: () => passages.setLooped(!passages.looped),
    x: blind,
    ArrowLeft: (event) => move(event.shiftKey ? -5 * STEP_S : -STEP_S),
    ArrowRight: (event) => move(event.shiftKey ? 5 * STEP_S : STEP_S),
    Home: () => control?.player.seek(0),
    ...Object.fromEntries([...slots, ...places]),
  });
}
