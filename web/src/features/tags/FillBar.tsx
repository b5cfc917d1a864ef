import { Button, Form, Input, Select } from "antd";
import { useState } from "react";
import type { TagField } from "../../api/client";
import { counted } from "../../shared/text/format";

/** One text for a field of several mixes, or the text of the first one in all of them. */
export function FillBar({
  fields,
  count,
  all,
  fill,
  down,
}: {
  fields: readonly TagField[];
  count: number;
  all: boolean;
  fill: (field: string, text: string) => void;
  down: (field: string) => void;
}) {
  const [field, setField] = useState("artist");
  const [text, setText] = useState("");
  return (
    <Form
      className="fill-bar"
      onFinish={() => {
        fill(field, text);
      }}
    >
      <span>
        In {all ? "all" : ""} {counted(count, "mix", "mixes")}, write
      </span>
      <Input
        value={text}
        aria-label="Text to fill in"
        placeholder="Text ({n} = number)"
        onChange={(event) => setText(event.target.value)}
      />
      <span>into</span>
      <Select
        aria-label="Field to fill"
        showSearch={{ optionFilterProp: "label" }}
        value={field}
        options={fields.map((one) => ({ value: one.name, label: one.title }))}
        onChange={setField}
      />
      <Button htmlType="submit">Fill</Button>
      <Button onClick={() => down(field)} title="Copy the first value to all">
        Fill down
      </Button>
    </Form>
  );
}
