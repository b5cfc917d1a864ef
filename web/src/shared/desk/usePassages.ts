import { useEffect, useState } from "react";
import type { HeldReport } from "../../api/client";
import { type Passage, type PassageName, passagesOf } from "./passages";
import type { Loop } from "./sound/messages";
import type { DeskControl } from "./useDesk";

export interface PassageControl {
  readonly passages: readonly Passage[];
  readonly looped: boolean;
  readonly setLooped: (looped: boolean) => void;
  readonly hear: (name: PassageName) => void;
  /** Whether the most different passage can be found: for a file that can be compared with its mix. */
  readonly measures: boolean;
  /** Goes round any stretch. */
  readonly hearStretch: (stretch: Loop) => void;
}

/** Passages of a listening desk; the most different one may need a comparison first, started by `ask`. */
export function usePassages(
  control: DeskControl | null,
  report: HeldReport | null,
  ask: (() => void) | null,
): PassageControl {
  const [looped, setRound] = useState(true);
  const [last, setLast] = useState<Loop | null>(null);
  const [waits, setWaits] = useState(false);
  const slot = control?.choice.slot ?? 0;
  const passages = control ? passagesOf(control.desk, slot, report) : [];
  const hearStretch = (stretch: Loop) => {
    setLast(stretch);
    control?.player.hear(stretch, looped);
  };
  const hear = (name: PassageName) => {
    const one = passages.find((passage) => passage.name === name);
    if (one) hearStretch(one);
    else if (name === "most different" && ask) {
      setWaits(true);
      ask();
    }
  };
  const most = passages.find((passage) => passage.name === "most different");
  useEffect(() => {
    if (!waits || !most) return;
    setWaits(false);
    hearStretch(most);
  }, [waits, most?.start]);
  const setLooped = (round: boolean) => {
    setRound(round);
    control?.player.loop(round ? last : null);
  };
  return { passages, looped, setLooped, hear, hearStretch, measures: ask !== null };
}
