import { Button, Checkbox, Form, Input, InputNumber, Popconfirm, Popover } from "antd";
import { type ReactNode, useEffect } from "react";
import type { Mix, StemShown, StemsShown } from "../../../api/client";
import { channels, clock, counted, level, rate } from "../../../shared/text/format";
import type { StemHands } from "./queries";

type Held = NonNullable<StemsShown["check"]>["stems"][number];

interface StemRowProps {
  mix: Mix;
  stem: StemShown;
  found: Held | undefined;
  on: boolean;
  alone: boolean;
  toggle: () => void;
  hearAlone: () => void;
  hands: StemHands;
  /** What there is to be said of a live source. */
  children?: ReactNode;
}

/** A stem: heard or not, what it is, and what the check found of it. */
export function StemRow({ mix, stem, found, on, alone, toggle, hearAlone, hands, children }: StemRowProps) {
  // Only where it is not like its mix.
  const about = [
    ...(stem.rate_hz === mix.rate_hz ? [] : [`${rate(stem.rate_hz)}, converted on reading`]),
    ...(stem.depth === mix.depth_label ? [] : [stem.depth]),
    ...(stem.mono ? ["dual mono"] : stem.channels === mix.channels ? [] : [channels(stem.channels)]),
    ...(stem.frames * mix.rate_hz === mix.frames * stem.rate_hz ? [] : [clock(stem.frames, stem.rate_hz)]),
    ...(stem.late_frames ? [`shifted by ${counted(stem.late_frames, "sample")}`] : []),
  ];
  return (
    <li className="stem-row">
      <Checkbox checked={on} disabled={stem.live_s > 0} onChange={toggle} aria-label={`Play ${stem.name}`} />
      <span className="stem-words">
        <b>{stem.name}</b>
        {about.length > 0 && <small>{about.join(" · ")}</small>}
        {stem.origin && !stem.captured && <small>{stem.origin}</small>}
        {found?.wrong && (
          <small className="stem-wrong">
            {found.wrong}
            {found.in_mix &&
              Math.abs(found.gain_db) > 0.05 &&
              ` Suggested gain: ${level(-found.gain_db, "dB")}.`}
          </small>
        )}
      </span>
      <Button
        size="small"
        aria-pressed={alone}
        disabled={stem.live_s > 0}
        onClick={hearAlone}
        aria-label={`Solo ${stem.name}`}
      >
        Solo
      </Button>
      <Popover
        trigger="click"
        placement="left"
        title={stem.name}
        content={<StemForm stem={stem} hands={hands} />}
        destroyOnHidden
      >
        <Button size="small" type="text" aria-label={`Edit ${stem.name}`}>
          …
        </Button>
      </Popover>
      {children}
    </li>
  );
}

/** Name, place and side of a stem. */
function StemForm({ stem, hands }: { stem: StemShown; hands: StemHands }) {
  const { name, late_frames, mono, apart } = stem;
  const [form] = Form.useForm<{ name: string; late_frames: number; mono?: boolean; summed: boolean }>();
  useEffect(() => form.setFieldsValue({ late_frames }), [form, late_frames]);
  return (
    <Form
      form={form}
      name="stem"
      size="small"
      layout="vertical"
      className="stem-form"
      initialValues={{ name, late_frames, mono, summed: !apart }}
      onFinish={({ summed, ...now }) => hands.change.mutate({ stem: stem.id, ...now, apart: !summed })}
    >
      <Form.Item name="name" label="Name">
        <Input maxLength={80} />
      </Form.Item>
      <Form.Item name="late_frames" label="Shift earlier (samples)" normalize={(value) => value ?? 0}>
        <InputNumber precision={0} />
      </Form.Item>
      {stem.channels === 2 && (
        <Form.Item name="mono" valuePropName="checked" noStyle>
          <Checkbox>Use as mono</Checkbox>
        </Form.Item>
      )}
      <Form.Item name="summed" valuePropName="checked" noStyle>
        <Checkbox>Part of the stem sum</Checkbox>
      </Form.Item>
      <small className="stem-path">{stem.path}</small>
      <span className="stem-acts">
        <Button size="small" type="primary" htmlType="submit">
          Save
        </Button>
        <Popconfirm
          title="Remove this stem?"
          description={stem.owned ? "The uploaded file is deleted." : "The file is kept."}
          okText="Remove"
          cancelText="Cancel"
          onConfirm={() => hands.remove.mutate(stem.id)}
        >
          <Button size="small" danger>
            Remove
          </Button>
        </Popconfirm>
      </span>
      {hands.change.error && (
        <p className="field-error" role="alert">
          {hands.change.error.message}
        </p>
      )}
    </Form>
  );
}
