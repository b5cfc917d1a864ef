import { Select } from "antd";
import { CHANNELS } from "../../ticket/deliveryOptions";
import { ChannelsPicture } from "../StationPictures";
import { type FieldsProps, type StationUi, useChoices } from "./panel";

const LAWS = [
  { value: -6 as const, label: "−6 dB per side" },
  { value: -3 as const, label: "−3 dB per side" },
];

function Fields(props: FieldsProps) {
  const { now, set, field } = useChoices(props);
  return (
    <>
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
    </>
  );
}

export const channels: StationUi = {
  title: "channels",
  Fields,
  Panel: ({ mix, mode, row, line }) => (
    <>
      <div className="delivery-controls">
        <Fields row={row} line={line} />
      </div>
      <ChannelsPicture mix={mix} mode={mode} />
    </>
  ),
};
