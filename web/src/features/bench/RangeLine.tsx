import { Button } from "antd";
import type { Mix, Row } from "../../api/client";
import { clock } from "../../shared/format";
import type { Range } from "./model";
import { wordsOf } from "./RangeTabs";
import { TimeField, type Timing } from "./TimeField";

interface RangeLineProps {
  mix: Mix;
  range: Range;
  rows: readonly Row[];
  timing: Timing;
  sounding: { start_frame: number; end_frame: number };
  setRange: (range: Range) => void;
  setEdge: (edge: "start" | "end", frame: number, free: boolean) => void;
}

/** Start and end of the chosen range, as they are typed, and what it is in words. */
export function RangeLine({ mix, range, rows, timing, sounding, setRange, setEdge }: RangeLineProps) {
  const whole = range.start_frame === 0 && range.end_frame === mix.frames;
  const onlySound = sounding.start_frame === range.start_frame && sounding.end_frame === range.end_frame;
  return (
    <>
      <TimeField
        mix={mix}
        timing={timing}
        label="Start"
        frame={range.start_frame}
        onFrame={(frame) => setEdge("start", frame, true)}
      />
      <TimeField
        mix={mix}
        timing={timing}
        label="End"
        frame={range.end_frame}
        onFrame={(frame) => setEdge("end", frame, true)}
      />
      <span className="range-words">
        {whole ? "Whole mix" : wordsOf(range, rows)},{" "}
        <b>{clock(range.end_frame - range.start_frame, mix.rate_hz)}</b>
      </span>
      {sounding.end_frame > sounding.start_frame && !onlySound && (
        <Button size="small" onClick={() => setRange({ ...range, ...sounding })}>
          Only what sounds
        </Button>
      )}
      {!whole && (
        <Button size="small" onClick={() => setRange({ ...range, start_frame: 0, end_frame: mix.frames })}>
          Whole mix
        </Button>
      )}
    </>
  );
}
