import { Checkbox, Form, type FormInstance, Input, InputNumber, Select } from "antd";
import type { LiveSource, Mix, Part, UnitShown } from "../../../api/client";
import { THE_MIX } from "../model";
import { useStems } from "./queries";

const { Item } = Form;

/** A MIDI file as base64. */
const inBase64 = (data: ArrayBuffer) =>
  btoa(Array.from(new Uint8Array(data), (one) => String.fromCharCode(one)).join(""));

const NEW: LiveSource = {
  name: "",
  address: "",
  part: THE_MIX,
  finish: false,
  score: "",
  correct_drift: true,
  on_dropout: "go-on",
  stop_on_over: false,
  send_gain_db: 0,
};

interface LiveFormProps {
  mix: Mix;
  form: FormInstance<LiveSource>;
  units: readonly UnitShown[];
  unit: UnitShown;
}

/** Unit, sent signal, and settings of the pass. */
export function LiveForm({ mix, form, units, unit }: LiveFormProps) {
  const plays = unit.unit === "instrument";
  const score = Form.useWatch("score", form);
  const stems = (useStems(mix.id).data?.stems ?? []).filter((one) => !one.live_s);
  const choices: { value: string; label: string; part: Part }[] = [
    { value: "mix", label: "Mix", part: THE_MIX },
    ...stems.map((one) => ({
      value: `s${one.id}`,
      label: one.name,
      part: { stems: [one.name], but: false },
    })),
  ];
  const choiceOf = (part: Part) => choices.find((one) => JSON.stringify(one.part) === JSON.stringify(part));
  const read = async (file: File | undefined) => {
    if (!file) return;
    const name = form.getFieldValue("name") || file.name.replace(/\.midi?$/i, "");
    form.setFieldsValue({ score: inBase64(await file.arrayBuffer()), name });
  };
  return (
    <Form<LiveSource>
      form={form}
      name="live"
      className="live-form"
      colon={false}
      labelAlign="left"
      labelCol={{ flex: "150px" }}
      initialValues={NEW}
    >
      <Item name="address" label="Unit" getValueProps={() => ({ value: unit.address })}>
        <Select
          options={units.map((one) => ({
            value: one.address,
            label: `${one.name}, ${one.unit}${one.busy ? ", in use" : ""}`,
          }))}
        />
      </Item>
      {plays ? (
        <Item label="MIDI file" htmlFor="live-score" extra={score ? null : "Standard MIDI file."}>
          <input
            id="live-score"
            type="file"
            accept=".mid,.midi,audio/midi"
            onChange={(event) => void read(event.target.files?.[0])}
          />
        </Item>
      ) : (
        <>
          <Item
            name="part"
            label="Send signal"
            getValueProps={(part: Part) => ({ value: choiceOf(part)?.value ?? "mix" })}
            normalize={(value) => choices.find((one) => one.value === value)?.part ?? THE_MIX}
          >
            <Select options={choices.map(({ value, label }) => ({ value, label }))} />
          </Item>
          <Item name="send_gain_db" label="Send gain" normalize={(value) => value ?? 0}>
            <InputNumber min={-60} max={24} step={0.5} suffix="dB" />
          </Item>
        </>
      )}
      <Item name="name" label="Name">
        <Input placeholder={plays ? "kit" : `${unit.name} capture`} maxLength={80} />
      </Item>
      <Item name="on_dropout" label="On a dropout">
        <Select
          options={[
            { value: "go-on", label: "continue and list it" },
            { value: "end", label: "stop the pass" },
          ]}
        />
      </Item>
      {!plays && (
        <Item name="finish" valuePropName="checked" noStyle>
          <Checkbox>Include the finishing chain</Checkbox>
        </Item>
      )}
      <Item name="correct_drift" valuePropName="checked" noStyle>
        <Checkbox>Correct clock drift</Checkbox>
      </Item>
      <Item name="stop_on_over" valuePropName="checked" noStyle>
        <Checkbox>Stop if the return clips</Checkbox>
      </Item>
    </Form>
  );
}
