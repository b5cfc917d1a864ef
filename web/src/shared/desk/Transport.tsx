import { Button, Select } from "antd";
import { useEffect, useRef } from "react";
import { clock, level } from "../text/format";
import { levelDb, MAGNIFIED_DB } from "./sound/choice";
import type { DeskControl } from "./useDesk";

/** Playback, position, and playback mode of the selected source. */
export function Transport({ control, more }: { control: DeskControl; more?: React.ReactNode }) {
  const { desk, player, snapshot, choice, choose } = control;
  const voice = desk.voices[choice.slot];
  const { hearing, levels } = choice;
  const matched = levelDb(desk.voices, choice.slot, levels);
  const turn = (to: typeof hearing) => choose({ hearing: hearing === to ? "whole" : to });
  return (
    <section className="transport sheet" aria-label="Listening desk" data-space>
      <Button type="primary" className="play" onClick={() => player.toggle()}>
        {snapshot.wanted ? "Pause" : "Play"} <kbd>Space</kbd>
      </Button>
      <Place control={control} />
      {desk.voices[0]?.kind === "mix" && (
        <Button
          className={choice.slot === 0 && hearing === "whole" ? "on" : ""}
          aria-pressed={choice.slot === 0 && hearing === "whole"}
          onClick={() => choose({ slot: 0, hearing: "whole" })}
        >
          Mix <kbd>0</kbd>
        </Button>
      )}
      <span className="magnified">
        <Button
          disabled={choice.slot === 0 || desk.voices[0]?.kind !== "mix"}
          className={hearing === "difference" ? "on" : ""}
          aria-pressed={hearing === "difference"}
          onClick={() => turn("difference")}
        >
          Difference <kbd>D</kbd>
        </Button>
        <Amount
          label="Difference gain"
          value={choice.differenceDb}
          set={(differenceDb) => choose({ differenceDb })}
        />
      </span>
      <span className="magnified">
        <Button
          className={hearing === "last-bits" ? "on" : ""}
          aria-pressed={hearing === "last-bits"}
          onClick={() => turn("last-bits")}
        >
          Lowest bits <kbd>B</kbd>
        </Button>
        <Amount label="Lowest-bits gain" value={choice.bitsDb} set={(bitsDb) => choose({ bitsDb })} />
      </span>
      <Button
        className={levels === "as-it-is" ? "" : "on"}
        aria-pressed={levels !== "as-it-is"}
        onClick={() => choose({ levels: levels === "as-it-is" ? "matched" : "as-it-is" })}
      >
        {typeof levels === "number" ? `At ${level(levels, "LUFS")}` : "Level-matched"}
        {levels !== "as-it-is" && hearing === "whole" && voice && ` ${level(matched, "dB")}`} <kbd>L</kbd>
      </Button>
      {more}
      <output className="desk-said">
        {snapshot.sentence ||
          (snapshot.status === "waiting" ? "Buffering" : "") ||
          (snapshot.guardDb < -0.05
            ? `turned down ${(-snapshot.guardDb).toFixed(1)} dB to avoid clipping`
            : "")}
      </output>
    </section>
  );
}

function Amount({ label, value, set }: { label: string; value: number; set: (db: number) => void }) {
  return (
    <Select
      aria-label={label}
      value={value}
      onChange={set}
      popupMatchSelectWidth={false}
      options={MAGNIFIED_DB.map((db) => ({ value: db, label: `+${db} dB` }))}
    />
  );
}

/** The place that is heard, written past React: it changes with every picture of the screen. */
function Place({ control }: { control: DeskControl }) {
  const { desk, player } = control;
  const text = useRef<HTMLElement>(null);
  useEffect(() => {
    let asked = 0;
    const write = () => {
      const place = clock(player.place(), desk.rate_hz);
      if (text.current && text.current.textContent !== place) text.current.textContent = place;
      asked = requestAnimationFrame(write);
    };
    write();
    return () => cancelAnimationFrame(asked);
  }, [player, desk.rate_hz]);
  return (
    <span className="desk-place">
      <b ref={text} /> of {clock(desk.frames, desk.rate_hz)}
    </span>
  );
}
