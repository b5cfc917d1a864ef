import { EdgeControls } from "../EdgeControls";
import { RangeFigures } from "../MeasureFigures";
import { useRange, useSession } from "../session";
import type { PanelProps, StationUi } from "./panel";

function Panel({ mix, mode }: PanelProps) {
  const range = useRange();
  return (
    <>
      <EdgeControls range={range} setRange={useSession().setRange} />
      <RangeFigures mix={mix} range={range} mode={mode} />
    </>
  );
}

export const range: StationUi = { title: "range", Panel };
