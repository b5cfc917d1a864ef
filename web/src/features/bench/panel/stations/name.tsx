import { Input } from "antd";
import { Figures } from "../../../../shared/text/Figures";
import { level as inWords } from "../../../../shared/text/format";
import { Field } from "../Field";
import { NameControls } from "../NameControls";
import { PanelFindings } from "../PanelFindings";
import { channels } from "./channels";
import { codec } from "./codec";
import { depth } from "./depth";
import { finish } from "./finish";
import { level } from "./level";
import { type FieldsProps, type PanelProps, type StationUi, useChoices } from "./panel";
import { rate } from "./rate";

/** Everything that can be chosen on the way to a file, in the order in which it is usually thought of. */
const ALL = [codec, depth, rate, channels, level, finish];

function GroupField(props: FieldsProps) {
  const { line } = props;
  const { setLine } = useChoices(props);
  return (
    <Field label="Group" departs={line.group !== ""} back={() => setLine({ ...line, group: "" })}>
      {(id) => (
        <Input
          id={id}
          size="small"
          key={line.group}
          defaultValue={line.group}
          maxLength={40}
          placeholder="none (a group shares one gain)"
          onBlur={(event) => {
            if (event.target.value !== line.group) setLine({ ...line, group: event.target.value.trim() });
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      )}
    </Field>
  );
}

function Panel({ mix, row, line }: PanelProps) {
  return (
    <>
      <NameControls key={line.id} mix={mix} row={row} line={line} />
      <div className="delivery-controls">
        {ALL.map(({ title, Fields }) => Fields && <Fields key={title} row={row} line={line} />)}
        <GroupField row={row} line={line} />
      </div>
      <Figures
        lines={[
          ["Estimated size", row.size.words],
          ["Estimated peak", inWords(row.forecast.sample_peak_dbfs)],
        ]}
      />
      <PanelFindings row={row} />
    </>
  );
}

export const name: StationUi = { title: "file", Panel };
