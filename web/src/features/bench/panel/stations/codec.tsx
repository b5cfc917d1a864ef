import { Select, Slider } from "antd";
import type { Row } from "../../../../api/client";
import { capital, MODES } from "../../../../shared/text/words";
import { withFormat } from "../../model";
import { formatGroups } from "../../ticket/deliveryOptions";
import { CodecPicture } from "../CodecPicture";
import { LadderPart } from "../LadderPart";
import { DepthField } from "./depth";
import { type FieldsProps, ownWords, type StationUi, useChoices } from "./panel";

/** The bit rates that are offered here, with the one that is set among them. */
const kbpsOf = ({ kbps_offered, settled: { kbps } }: Row): number[] =>
  kbps === null || kbps_offered.includes(kbps) ? kbps_offered : [...kbps_offered, kbps].sort((a, b) => a - b);

function Fields(props: FieldsProps) {
  const { row } = props;
  const { now, can, formats, set, edit, field } = useChoices(props);
  return (
    <>
      {field("container", "Format", (id) => (
        <Select
          id={id}
          size="small"
          value={now.container}
          listHeight={420}
          popupMatchSelectWidth={240}
          options={formatGroups(formats.all)}
          onChange={(container) => {
            const next = formats.of(container);
            if (next) edit((one) => ({ ...one, changes: withFormat(one.changes, next) }));
          }}
        />
      ))}
      {can &&
        can.knobs.length > 1 &&
        field("mode", "Mode", (id) => (
          <Select
            id={id}
            size="small"
            value={now.mode}
            options={can.knobs.map(([value]) => ({ value, label: capital(MODES[value]) }))}
            onChange={(mode) => set({ mode, kbps: null, coding_quality: null })}
          />
        ))}
      {now.kbps !== null &&
        field("kbps", "Bit rate", (id) => (
          <Select
            id={id}
            size="small"
            value={now.kbps}
            options={kbpsOf(row).map((value) => ({ value, label: `${value} kbit/s` }))}
            onChange={(kbps) => set({ kbps })}
          />
        ))}
      {now.coding_quality !== null &&
        field("coding_quality", "Quality", (id) => (
          <span className="slider-field">
            <Slider
              id={id}
              min={0}
              max={10}
              value={now.coding_quality ?? 0}
              ariaLabelForHandle="Encoder quality, 0 to 10 (best)"
              onChange={(coding_quality) => set({ coding_quality })}
            />
            <span>{now.coding_quality} of 10</span>
          </span>
        ))}
    </>
  );
}

export const codec: StationUi = {
  title: "Format",
  said: (row, station, can) => [ownWords(row, station, can).join(" "), row.size.words],
  Panel: ({ codecTrial, ...about }) => (
    <>
      <div className="delivery-controls">
        <Fields {...about} />
        <DepthField {...about} />
      </div>
      <CodecPicture row={about.row} trial={codecTrial} mode={about.mode} />
      {about.row.lossy && <LadderPart {...about} />}
    </>
  ),
};
