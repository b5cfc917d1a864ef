import { Button } from "antd";
import type { Mix, Row } from "../../../api/client";
import { clock } from "../../../shared/text/format";
import { TimeField } from "../../../shared/time/TimeField";
import { useSounding } from "../queries";
import { useRange, useSession, useSetOut } from "../session";
import { wordsOf } from "./RangeTabs";
import type { TimingControl } from "./useTiming";

interface RangeLineProps {
  mix: Mix;
  rows: readonly Row[];
  timing: TimingControl;
}

/** Start and end of the chosen range, as they are typed, and what it is in words. */
export function RangeLine({ mix, rows, timing: { timing, setEdge } }: RangeLineProps) {
  const { setRange } = useSession();
  const range = useRange();
  const { silence_dbfs: silence } = useSetOut();
  const found = useSounding(mix, silence).data;
  const sounding = {
    start_frame: found?.start_frame ?? mix.measures.head_silence_frames,
    end_frame: found?.end_frame ?? mix.frames - mix.measures.tail_silence_frames,
  };
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
          Trim silence
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
