import { Button } from "antd";
import { PASSAGE_KEYS, type Passage, type PassageName } from "./passages";
import type { Loop } from "./sound/messages";

/** Where one key goes, and whether it goes round there. */
export function Passages({
  loop,
  rateHz,
  passages,
  looped,
  setLooped,
  hear,
  measures,
  measurable = false,
  shows,
}: {
  loop: Loop | null;
  rateHz: number;
  passages: readonly Passage[];
  looped: boolean;
  setLooped: (looped: boolean) => void;
  hear: (name: PassageName) => void;
  measures: boolean;
  /** Whether any source could be compared with its mix. */
  measurable?: boolean;
  /** What the waveform below is of. */
  shows?: string | undefined;
}) {
  return (
    <div className="passages">
      {shows && <b title={shows}>{shows}</b>}
      {PASSAGE_KEYS.map(([name, title, key]) => {
        const one = passages.find((passage) => passage.name === name);
        const on = one !== undefined && loop?.start === one.start && loop.end === one.end;
        const may = one !== undefined || (name === "most different" && measures);
        if (!may && !measurable && name === "most different") return null;
        return (
          <Button
            key={name}
            size="small"
            disabled={!may}
            className={on ? "on" : ""}
            aria-pressed={on}
            onClick={() => hear(name)}
          >
            {title} <kbd>{key}</kbd>
          </Button>
        );
      })}
      <Button
        size="small"
        className={looped ? "on" : ""}
        aria-pressed={looped}
        onClick={() => setLooped(!looped)}
      >
        {loop ? `Looping ${((loop.end - loop.start) / rateHz).toFixed(1)} s` : "Loop"} <kbd>R</kbd>
      </Button>
    </div>
  );
}
