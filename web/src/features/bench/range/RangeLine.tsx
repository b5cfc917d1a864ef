import type { ReactNode } from "react";
import type { Mix } from "../../../api/client";
import { TimeField } from "../../../shared/time/TimeField";
import { useRange } from "../session";
import type { TimingControl } from "./useTiming";

interface RangeLineProps {
  mix: Mix;
  timing: TimingControl;
  children: ReactNode;
}

/** Start and end of the chosen range, as they are typed, and how times are shown. */
export function RangeLine({ mix, timing: { timing, setEdge }, children }: RangeLineProps) {
  const range = useRange();
  return (
    <span className="range-line">
      <TimeField
        mix={mix}
        timing={timing}
        label="From"
        labelHidden
        frame={range.start_frame}
        onFrame={(frame) => setEdge("start", frame, true)}
      />
      <span aria-hidden="true">–</span>
      <TimeField
        mix={mix}
        timing={timing}
        label="To"
        labelHidden
        frame={range.end_frame}
        onFrame={(frame) => setEdge("end", frame, true)}
      />
      {children}
    </span>
  );
}
