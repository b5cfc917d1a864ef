import { Switch } from "antd";
import { useSetOut } from "../../session";
import { FinishControls } from "../FinishControls";
import { FinishPicture } from "../StationPictures";
import { type PanelProps, type StationUi, useChoices } from "./panel";

function Panel(props: PanelProps) {
  const { now, set, field } = useChoices(props);
  return (
    <>
      <FinishControls mix={props.mix} />
      <div className="delivery-controls">
        {field("finish", "Finishing chain", (id) => (
          <Switch id={id} size="small" checked={now.finish} onChange={(finish) => set({ finish })} />
        ))}
      </div>
      <FinishPicture mix={props.mix} finish={useSetOut().finish} mode={props.mode} />
    </>
  );
}

export const finish: StationUi = {
  title: "Finishing",
  said: (row, station) =>
    station ? [station.label, station.detail] : ["off", row.settled.finish ? "" : "left out"],
  idle: "No DC removal, high-pass, gain or limiter.",
  Panel,
};
