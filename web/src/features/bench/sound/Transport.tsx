import { Button, Slider } from "antd";
import { useEffect, useRef } from "react";
import { MUTE_DB, player, usePlayer } from "../../../shared/sound/player";
import { useVolume } from "../../../shared/sound/volume";
import type { Mode } from "../../../shared/theme";
import { printPlace } from "../../../shared/time/timeUnits";
import type { TimingControl } from "../range/useTiming";
import { useBench } from "../session";
import { Meter } from "./Meter";
import { OutputDevice } from "./OutputDevice";
import type { Listening } from "./useListening";

interface TransportProps {
  rateHz: number;
  mode: Mode;
  timing: TimingControl["timing"];
  listening: Listening;
}

/** Hearing what will be pressed: from where to where, again and again, how loud; and where one is. */
export function Transport({ rateHz, mode, timing, listening }: TransportProps) {
  const playing = usePlayer();
  return (
    <fieldset className="bench-listening" aria-label="Playback">
      <Button
        size="small"
        type={playing.status === "playing" ? "primary" : "default"}
        aria-label={playing.status === "playing" ? "Stop" : "Play range"}
        aria-keyshortcuts="Space"
        title="Space"
        onClick={listening.playRange}
      >
        {playing.status === "playing" ? "Stop" : "Play"}
      </Button>
      <Button size="small" aria-pressed={listening.looped} aria-keyshortcuts="l" onClick={listening.turnLoop}>
        Loop
      </Button>
      <Button size="small" aria-label="Play start" onClick={listening.hearStart} aria-keyshortcuts="s">
        Start
      </Button>
      <Button size="small" aria-label="Play end" onClick={listening.hearEnd} aria-keyshortcuts="e">
        End
      </Button>
      <Position rateHz={rateHz} timing={timing} />
      <Meter mode={mode}>
        <Volume />
        <OutputDevice />
      </Meter>
    </fieldset>
  );
}

/** Where it plays, or where it would begin, in the unit of the ruler. */
function Position({ rateHz, timing }: { rateHz: number; timing: TransportProps["timing"] }) {
  const state = usePlayer();
  const cursor = useBench((view) => view.cursor);
  const text = useRef<HTMLSpanElement>(null);
  const playing = state.status === "playing";
  useEffect(() => {
    let request = 0;
    const tell = () => {
      const at = Math.max(0, Math.round(player.position() ?? cursor));
      if (text.current) text.current.textContent = printPlace(at, timing.unit, rateHz, timing.bars);
      if (playing) request = requestAnimationFrame(tell);
    };
    tell();
    return () => cancelAnimationFrame(request);
  }, [playing, cursor, timing, rateHz]);
  return <span ref={text} role="timer" className="position" aria-label="Position" />;
}

const LOWEST_DB = -48;

function Volume() {
  const { db, set } = useVolume();
  const words = db <= MUTE_DB ? "off" : `${db < 0 ? "−" : ""}${Math.abs(db)} dB`;
  return (
    <div className="volume" title="Monitoring volume. Files are not affected.">
      <span id="volume-name">Volume</span>
      <Slider
        ariaLabelledByForHandle="volume-name"
        ariaValueTextFormatterForHandle={() => words}
        min={LOWEST_DB - 1}
        max={0}
        value={Math.max(LOWEST_DB - 1, db)}
        tooltip={{ open: false }}
        onChange={(value) => set(value < LOWEST_DB ? MUTE_DB : value)}
      />
      <span className="volume-figure">{words}</span>
    </div>
  );
}
