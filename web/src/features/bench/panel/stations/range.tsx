import { useAfter } from "../../queries";
import { EdgeControls } from "../../range/EdgeControls";
import { RangeFigures } from "../../range/MeasureFigures";
import { useRange, useSession, useSetOut } from "../../session";
import { ownWords, type PanelProps, type StationUi } from "./panel";

function Panel({ mix, mode }: PanelProps) {
  const range = useRange();
  const after = useAfter(mix, range, useSetOut().silence_dbfs);
  return (
    <>
      <EdgeControls range={range} setRange={useSession().setRange} after={after} />
      <RangeFigures mix={mix} range={range} mode={mode} />
    </>
  );
}

export const range: StationUi = { title: "Range", said: ownWords, Panel };
