import { Switch } from "antd";
import { useSetOut } from "../../session";
import { FinishControls } from "../FinishControls";
import { FinishPicture } from "../StationPictures";
import { type FieldsProps, type PanelProps, type StationUi, useChoices } from "./panel";

function Fields(props: FieldsProps) {
  const { now, set, field } = useChoices(props);
  return field("finish", "Finishing chain", (id) => (
    <Switch id={id} size="small" checked={now.finish} onChange={(finish) => set({ finish })} />
  ));
}

function Panel({ mix, mode, row, line }: PanelProps) {
  return (
    <>
      <FinishControls mix={mix} />
      <div className="delivery-controls">
        <Fields row={row} line={line} />
      </div>
      <FinishPicture mix={mix} finish={useSetOut().finish} mode={mode} />
    </>
  );
}

export const finish: StationUi = { title: "finish", Panel, Fields };
