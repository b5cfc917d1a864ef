import { useQuery } from "@tanstack/react-query";
import { Button, Form, Input, InputNumber, Select } from "antd";
import { api, type Brief, type Capability } from "../../api/client";
import { useDropOffs } from "../../shared/sending/queries";
import { rate } from "../../shared/text/format";
import { useFormats } from "../../shared/text/formats";
import { LEVEL_UNITS, LEVELS, MODES } from "../../shared/text/words";

const { Item } = Form;
const KINDS = ["leave", "peak", "true-peak", "loudness"] as const;

/** Rates that the format of the brief exists at. */
const rateChoices = (can: Capability | undefined) => [
  { value: "keep", label: "same as mix" },
  ...(can?.rates_hz ?? []).map((hz) => ({ value: hz, label: rate(hz) })),
];

interface BriefFormProps {
  brief: Brief;
  saving: boolean;
  save: (brief: Brief) => void;
}

/** A brief of one's own, to be changed; requirements that are not shown stay as they are. */
export function BriefForm({ brief, saving, save }: BriefFormProps) {
  const [form] = Form.useForm<Brief>();
  // Nothing is watched before the fields are there.
  const now = { ...brief, ...Form.useWatch((all: Brief) => all, { form, preserve: true }) };
  const { prefer } = now;
  const formats = useFormats();
  const fields = useQuery({ queryKey: ["tag-fields"], queryFn: api.tagFields }).data ?? [];
  const dropOffs = useDropOffs().data?.drop_offs ?? [];
  const can = formats.of(prefer.container);
  const mode = prefer.mode ?? can?.knobs[0]?.[0];
  const knob = can?.knobs.find(([one]) => one === mode)?.[1];
  const changed = JSON.stringify(now) !== JSON.stringify(brief);
  const unset = (names: (keyof Brief["prefer"])[]) =>
    form.setFields(names.map((name) => ({ name: ["prefer", name], value: null })));
  return (
    <Form<Brief>
      form={form}
      name="brief"
      className="brief-form"
      colon={false}
      labelAlign="left"
      labelCol={{ flex: "130px" }}
      initialValues={brief}
      onFinish={() => save(form.getFieldsValue(true))}
    >
      <Item name="title" label="Title">
        <Input maxLength={80} />
      </Item>
      <Item name="sentence" label="Summary">
        <Input />
      </Item>
      <Item name="why" label="Reason">
        <Input />
      </Item>
      <Item name={["prefer", "silence_dbfs"]} label="Silence below">
        <InputNumber min={-120} max={-20} placeholder="automatic" suffix="dBFS" />
      </Item>
      <Item name={["prefer", "container"]} label="Format">
        <Select
          aria-label="Format of the brief"
          options={formats.all.map((one) => ({ value: one.container, label: one.title }))}
          onChange={(container) => {
            // What another format was set to does not hold for this one.
            unset(["mode", "kbps", "coding_quality"]);
            form.setFields([
              { name: ["prefer", "encoding"], value: formats.of(container)?.lossy ? "lossy" : "keep" },
              { name: ["require", "containers"], value: [] },
            ]);
          }}
        />
      </Item>
      {can?.lossy ? (
        <Item label="Bit rate">
          <div className="brief-pair">
            <Item
              name={["prefer", "mode"]}
              noStyle
              getValueProps={(value) => ({ value: value ?? can.knobs[0]?.[0] })}
            >
              <Select
                aria-label="Mode of the bit rate"
                options={can.knobs.map(([value]) => ({ value, label: MODES[value] }))}
                onChange={() => unset(["kbps", "coding_quality"])}
              />
            </Item>
            {knob === "kbps" ? (
              <Item name={["prefer", "kbps"]} noStyle>
                <Select
                  aria-label="Bit rate of the brief"
                  placeholder="default"
                  options={can.kbps.map((value) => ({ value, label: `${value} kbit/s` }))}
                />
              </Item>
            ) : (
              <Item name={["prefer", "coding_quality"]} noStyle>
                <InputNumber
                  aria-label="Quality of the brief"
                  min={0}
                  max={10}
                  placeholder="default"
                  suffix="of 10"
                />
              </Item>
            )}
          </div>
        </Item>
      ) : (
        <Item name={["prefer", "encoding"]} label="Depth">
          <Select
            aria-label="Depth of the brief"
            options={["keep", ...(can?.depths.map(([one]) => one) ?? [])].map((value) => ({
              value,
              label: formats.depth(value),
            }))}
          />
        </Item>
      )}
      <Item name={["prefer", "rate_hz"]} label="Rate">
        <Select aria-label="Rate of the brief" options={rateChoices(can)} />
      </Item>
      <Item label="Level">
        <div className="brief-pair">
          <Item name={["prefer", "level", "kind"]} noStyle>
            <Select
              aria-label="Level of the brief"
              options={KINDS.map((value) => ({ value, label: LEVELS[value] }))}
            />
          </Item>
          {prefer.level.kind !== "leave" && (
            <Item
              name={["prefer", "level", "target"]}
              noStyle
              normalize={(target, before) => target ?? before}
            >
              <InputNumber
                aria-label="Target of the brief"
                min={-70}
                max={0}
                suffix={LEVEL_UNITS[prefer.level.kind]}
              />
            </Item>
          )}
        </div>
      </Item>
      <Item name={["require", "true_peak_max_dbtp"]} label="Max true peak">
        <InputNumber min={-20} max={6} suffix="dBTP" placeholder="any" />
      </Item>
      <Item
        name={["require", "bytes_max"]}
        label="Max size"
        getValueProps={(bytes: number | null) => ({ value: bytes === null ? null : bytes / 1e6 })}
        normalize={(mb: number | null) => (mb === null ? null : Math.round(mb * 1e6))}
      >
        <InputNumber min={0.1} suffix="MB" placeholder="any" />
      </Item>
      <Item name="label_pattern" label="File name">
        <Input />
      </Item>
      <Item name="drop_off" label="Sub-folder">
        <Input />
      </Item>
      <Item name="sends_to" label="Send to">
        <Select
          mode="multiple"
          aria-label="Automatic drop-offs"
          placeholder="not sent automatically"
          options={dropOffs.map(({ drop_off: { name } }) => ({ value: name, label: name }))}
          notFoundContent="No drop-offs. Add one in Outbox."
        />
      </Item>
      <Item name="tags" label="Required tags">
        <Select
          mode="multiple"
          aria-label="Required tags"
          options={[
            ...fields.map((one) => ({ value: one.name, label: one.title })),
            { value: "cover", label: "Cover" },
          ]}
        />
      </Item>
      <Button type="primary" htmlType="submit" disabled={!changed} loading={saving}>
        Save
      </Button>
    </Form>
  );
}
