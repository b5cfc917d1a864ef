import { Input, InputNumber, Select, Slider, Switch } from "antd";
import { type ReactNode, useId } from "react";
import type { Changes, LevelWish, Row, TicketLine } from "../../api/client";
import { useFormats } from "../../shared/formats";
import {
  CHANNELS,
  DITHERS,
  depthsOf,
  FIRST,
  formatGroups,
  LEVELS,
  MODES,
  ratesOf,
  UNITS,
} from "./deliveryOptions";
import { Field } from "./Field";
import { withFormat } from "./model";

/** The bit rates that are offered here, with the one that is set among them. */
const kbpsOf = ({ kbps_offered, settled: { kbps } }: Row): number[] =>
  kbps === null || kbps_offered.includes(kbps) ? kbps_offered : [...kbps_offered, kbps].sort((a, b) => a - b);

interface DeliveryControlsProps {
  row: Row;
  line: TicketLine;
  kind: string;
  setLine: (line: TicketLine) => void;
}

/** What can be chosen at a station of a delivery; at its file, everything. */
export function DeliveryControls({ row, line, kind, setLine }: DeliveryControlsProps) {
  const now = row.settled;
  // What was changed a moment ago counts, also while the server has not answered yet.
  const level = line.changes.level ?? now.level;
  const formats = useFormats();
  const can = formats.of(now.container);
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
        field("container", "Format", (id) => (
          <Select
            id={id}
            size="small"
            value={now.container}
            listHeight={420}
            popupMatchSelectWidth={240}
            options={formatGroups(formats.all)}
            onChange={(container) => {
              const next = formats.of(container);
              if (next) setLine({ ...line, changes: withFormat(line.changes, next) });
            }}
          />
        ))}
      {wants("codec") && can && now.mode && (
        <>
          {can.knobs.length > 1 &&
            field("mode", "Mode", (id) => (
              <Select
                id={id}
                size="small"
                value={now.mode}
                options={can.knobs.map(([value]) => ({ value, label: MODES[value] }))}
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
                  ariaLabelForHandle="Encoder quality from 0 to 10"
                  onChange={(coding_quality) => set({ coding_quality })}
                />
                <span>{now.coding_quality} of 10</span>
              </span>
            ))}
        </>
      )}
      {wants("depth", "codec") &&
        !row.lossy &&
        field("encoding", "Depth", (id) => (
          <Select
            id={id}
            size="small"
            value={now.encoding}
            options={depthsOf(can)}
            onChange={(encoding) => set({ encoding })}
          />
        ))}
      {wants("depth") &&
        !row.lossy &&
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
            options={[{ value: 0, label: "Keep the mix's" }, ...ratesOf(can)]}
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
              value={level.kind}
              options={LEVELS}
              onChange={(next) => set({ level: { ...level, kind: next, target: FIRST[next] } })}
            />
          ))}
          <LevelDetails level={level} lossy={row.lossy} setLevel={(next) => set({ level: next })} />
        </>
      )}
      {wants("finish") &&
        field("finish", "Finishing chain", (id) => (
          <Switch id={id} size="small" checked={now.finish} onChange={(finish) => set({ finish })} />
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

function LevelDetails({
  level,
  lossy,
  setLevel,
}: {
  level: LevelWish;
  lossy: boolean;
  setLevel: (level: LevelWish) => void;
}) {
  const ids = [useId(), useId(), useId(), useId(), useId(), useId()] as const;
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
          {level.limit && (
            <div className="delivery-field">
              <label htmlFor={ids[5]}>Takes off at most</label>
              <InputNumber
                id={ids[5]}
                size="small"
                min={0}
                max={40}
                step={0.5}
                value={level.max_reduction_db}
                suffix="dB"
                onChange={(most) => most !== null && setLevel({ ...level, max_reduction_db: most })}
              />
            </div>
          )}
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
      {lossy && (
        <div className="delivery-field">
          <label htmlFor={ids[4]}>Decoded, too</label>
          <Switch
            id={ids[4]}
            size="small"
            checked={level.back_off}
            title="Made again, lower, until what is decoded stays under it"
            onChange={(back_off) => setLevel({ ...level, back_off })}
          />
        </div>
      )}
    </>
  );
}
