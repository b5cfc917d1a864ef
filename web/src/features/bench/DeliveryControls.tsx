import { Button, Input, InputNumber, Select, Switch } from "antd";
import { type ReactNode, useId } from "react";
import type { Changes, LevelWish, Row, Settled, TicketLine } from "../../api/client";
import { useCapabilities } from "./queries";

const DEPTHS: { value: Settled["encoding"]; label: string }[] = [
  { value: "u8", label: "8 bits" },
  { value: "s16", label: "16 bits" },
  { value: "s20", label: "20 bits" },
  { value: "s24", label: "24 bits" },
  { value: "s32", label: "32 bits" },
  { value: "f32", label: "32-bit float" },
  { value: "f64", label: "64-bit float" },
];

const DITHERS: { value: Settled["dither"]; label: string }[] = [
  { value: "auto", label: "By rule" },
  { value: "none", label: "None" },
  { value: "rectangular", label: "Rectangular" },
  { value: "triangular", label: "Triangular" },
  { value: "triangular-high-pass", label: "Triangular, high-passed" },
  { value: "shaped-light", label: "Shaped, light" },
  { value: "shaped-strong", label: "Shaped, strong" },
];

const RATES = [8, 11.025, 16, 22.05, 32, 44.1, 48, 88.2, 96, 176.4, 192].map((khz) => ({
  value: Math.round(khz * 1000),
  label: `${khz} kHz`,
}));

const CHANNELS: { value: Settled["channels"]; label: string }[] = [
  { value: "keep", label: "As the mix has them" },
  { value: "stereo", label: "Stereo" },
  { value: "split", label: "Two files, left and right" },
  { value: "mono", label: "Mono sum" },
  { value: "left", label: "Left alone" },
  { value: "right", label: "Right alone" },
  { value: "swapped", label: "Sides swapped" },
];

const LEVELS: { value: LevelWish["kind"]; label: string }[] = [
  { value: "leave", label: "Leave it alone" },
  { value: "peak", label: "Sample peak to" },
  { value: "true-peak", label: "True peak to" },
  { value: "loudness", label: "Loudness to" },
];

const UNITS: Record<LevelWish["kind"], string> = {
  leave: "",
  peak: "dBFS",
  "true-peak": "dBTP",
  loudness: "LUFS",
};
const FIRST: Record<LevelWish["kind"], number> = { leave: 0, peak: -0.3, "true-peak": -1, loudness: -14 };

interface DeliveryControlsProps {
  row: Row;
  line: TicketLine;
  kind: string;
  setLine: (line: TicketLine) => void;
}

/** A labelled control that says when it departs from the brief, and takes it back on one click. */
function Field({
  label,
  departs,
  back,
  children,
}: {
  label: string;
  departs: boolean;
  back: () => void;
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className={`delivery-field${departs ? " departs" : ""}`}>
      <label htmlFor={id}>{label}</label>
      {children(id)}
      {departs && (
        <Button size="small" type="link" onClick={back} aria-label={`${label} as the brief has it`}>
          as the brief
        </Button>
      )}
    </div>
  );
}

/** What can be chosen at a station of a delivery; at its file, everything. */
export function DeliveryControls({ row, line, kind, setLine }: DeliveryControlsProps) {
  const now = row.settled;
  const capabilities = useCapabilities().data ?? [];
  const can = capabilities.find((one) => one.container === now.container);
  const set = (changes: Partial<Changes>) => setLine({ ...line, changes: { ...line.changes, ...changes } });
  const field = (name: keyof Changes, label: string, control: (id: string) => ReactNode) => (
    <Field
      key={name}
      label={label}
      departs={line.changes[name] !== null}
      back={() => set({ [name]: null } as Partial<Changes>)}
    >
      {control}
    </Field>
  );
  const wants = (...kinds: string[]) => kind === "name" || kinds.includes(kind);
  return (
    <div className="delivery-controls">
      {wants("codec") &&
        field("container", "Container", (id) => (
          <Select
            id={id}
            size="small"
            value={now.container}
            options={capabilities.map((one) => ({ value: one.container, label: one.title }))}
            onChange={(container) => set({ container })}
          />
        ))}
      {wants("depth", "codec") &&
        field("encoding", "Depth", (id) => (
          <Select
            id={id}
            size="small"
            value={now.encoding}
            options={DEPTHS.map((one) => ({
              ...one,
              disabled: can !== undefined && !can.encodings.includes(one.value),
            }))}
            onChange={(encoding) => set({ encoding })}
          />
        ))}
      {wants("depth") &&
        !now.encoding.startsWith("f") &&
        field("dither", "Dither", (id) => (
          <Select
            id={id}
            size="small"
            value={now.dither}
            options={DITHERS}
            onChange={(dither) => set({ dither })}
          />
        ))}
      {wants("rate") &&
        field("rate_hz", "Rate", (id) => (
          <Select
            id={id}
            size="small"
            value={line.changes.rate_hz === 0 ? 0 : now.rate_hz}
            options={[{ value: 0, label: "Keep the mix's" }, ...RATES]}
            onChange={(rate_hz) => set({ rate_hz })}
          />
        ))}
      {wants("rate") &&
        field("quality", "Quality", (id) => (
          <Select
            id={id}
            size="small"
            value={now.quality}
            options={[
              { value: "very-high" as const, label: "Very high" },
              { value: "high" as const, label: "High" },
            ]}
            onChange={(quality) => set({ quality })}
          />
        ))}
      {wants("channels") &&
        field("channels", "Channels", (id) => (
          <Select
            id={id}
            size="small"
            value={now.channels}
            options={CHANNELS}
            onChange={(channels) => set({ channels })}
          />
        ))}
      {wants("channels") &&
        now.channels === "mono" &&
        field("mono_law_db", "Law", (id) => (
          <Select
            id={id}
            size="small"
            value={now.mono_law_db}
            options={[
              { value: -6 as const, label: "−6 dB a side" },
              { value: -3 as const, label: "−3 dB a side" },
            ]}
            onChange={(mono_law_db) => set({ mono_law_db })}
          />
        ))}
      {wants("level") && (
        <>
          {field("level", "Level", (id) => (
            <Select
              id={id}
              size="small"
              value={now.level.kind}
              options={LEVELS}
              onChange={(next) => set({ level: { ...now.level, kind: next, target: FIRST[next] } })}
            />
          ))}
          <LevelDetails level={now.level} setLevel={(level) => set({ level })} />
        </>
      )}
      {wants("finish") &&
        field("finish", "Finishing chain", (id) => (
          <Switch id={id} size="small" checked={now.finish} onChange={(finish) => set({ finish })} />
        ))}
      {kind === "name" &&
        field("label_pattern", "File name", (id) => (
          <Input
            id={id}
            size="small"
            key={now.label_pattern}
            defaultValue={now.label_pattern}
            maxLength={300}
            title="Fields: {title} {range} {rate} {depth} {tempo} {brief} {side}"
            onBlur={(event) => {
              const label_pattern = event.target.value.trim();
              if (label_pattern && label_pattern !== now.label_pattern) set({ label_pattern });
            }}
            onPressEnter={(event) => event.currentTarget.blur()}
          />
        ))}
      {kind === "name" && (
        <Field label="Group" departs={line.group !== ""} back={() => setLine({ ...line, group: "" })}>
          {(id) => (
            <Input
              id={id}
              size="small"
              key={line.group}
              defaultValue={line.group}
              maxLength={40}
              placeholder="none; a group shares one gain"
              onBlur={(event) => {
                if (event.target.value !== line.group) setLine({ ...line, group: event.target.value.trim() });
              }}
              onPressEnter={(event) => event.currentTarget.blur()}
            />
          )}
        </Field>
      )}
    </div>
  );
}

function LevelDetails({ level, setLevel }: { level: LevelWish; setLevel: (level: LevelWish) => void }) {
  const ids = [useId(), useId(), useId(), useId()] as const;
  if (level.kind === "leave") return null;
  return (
    <>
      <div className="delivery-field">
        <label htmlFor={ids[0]}>Target</label>
        <InputNumber
          id={ids[0]}
          size="small"
          min={-70}
          max={0}
          step={0.1}
          value={level.target}
          suffix={UNITS[level.kind]}
          onChange={(target) => target !== null && setLevel({ ...level, target })}
        />
      </div>
      {level.kind === "loudness" && (
        <>
          <div className="delivery-field">
            <label htmlFor={ids[1]}>Ceiling</label>
            <InputNumber
              id={ids[1]}
              size="small"
              min={-20}
              max={0}
              step={0.1}
              value={level.ceiling_dbtp}
              suffix="dBTP"
              onChange={(ceiling_dbtp) => ceiling_dbtp !== null && setLevel({ ...level, ceiling_dbtp })}
            />
          </div>
          <div className="delivery-field">
            <label htmlFor={ids[2]}>With a limiter</label>
            <Switch
              id={ids[2]}
              size="small"
              checked={level.limit}
              onChange={(limit) => setLevel({ ...level, limit })}
            />
          </div>
        </>
      )}
      <div className="delivery-field">
        <label htmlFor={ids[3]}>Only ever down</label>
        <Switch
          id={ids[3]}
          size="small"
          checked={level.only_down}
          onChange={(only_down) => setLevel({ ...level, only_down })}
        />
      </div>
    </>
  );
}
