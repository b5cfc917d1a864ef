import { Select } from "antd";
import { CHANNELS } from "../../ticket/deliveryOptions";
import { ChannelsPicture } from "../StationPictures";
import { type PanelProps, type StationUi, useChoices } from "./panel";

const LAWS = [
  { value: -6 as const, label: "−6 dB per side" },
  { value: -3 as const, label: "−3 dB per side" },
];

function Panel(props: PanelProps) {
  const { now, set, field } = useChoices(props);
  return (
    <>
      <div className="delivery-controls">
        {field("channels", "Channels", (id) => (
          <Select
            id={id}
            size="small"
            value={now.channels}
            options={CHANNELS}
            onChange={(channels) => set({ channels })}
          />
        ))}
        {now.channels === "mono" &&
          field("mono_law_db", "Mono sum law", (id) => (
            <Select
              id={id}
              size="small"
              value={now.mono_law_db}
              options={LAWS}
              onChange={(mono_law_db) => set({ mono_law_db })}
            />
          ))}
      </div>
      <ChannelsPicture mix={props.mix} mode={props.mode} />
    </>
  );
}

export const channels: StationUi = {
  title: "Channels",
  said: ({ channels: count }, station) =>
    station ? [station.label, station.detail] : [count === 1 ? "mono" : "stereo", "same as mix"],
  idle: "Channels as in the mix.",
  Panel,
};
