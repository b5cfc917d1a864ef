import { useQuery } from "@tanstack/react-query";
import { Button, Input, InputNumber, Select } from "antd";
import { type ReactNode, useState } from "react";
import { api, type Brief, type Capability, type LevelRequest } from "../../api/client";
import { useDropOffs } from "../../shared/sending/queries";
import { rate } from "../../shared/text/format";
import { useFormats } from "../../shared/text/formats";
import { LEVEL_UNITS, LEVELS, MODES } from "../../shared/text/words";

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is the child
    <label className="brief-field">
      <span>{label}</span>
      {children}
    </label>
  );
}

const choices = (values: readonly string[], words: Record<string, string> = {}) =>
  values.map((value) => ({ value, label: words[value] ?? value }));

/** Rates that the format of the brief exists at. */
const rateChoices = (can: Capability | undefined) => [
  { value: "keep", label: "same as mix" },
  ...(can?.rates_hz ?? []).map((hz) => ({ value: String(hz), label: rate(hz) })),
];

/** A brief of one's own, to be changed; requirements that are not shown stay as they are. */
export function BriefForm({
  brief,
  saving,
  save,
}: {
  brief: Brief;
  saving: boolean;
  save: (brief: Brief) => void;
}) {
  const [now, setNow] = useState(brief);
  const set = (part: Partial<Brief>) => setNow({ ...now, ...part });
  const prefer = (part: Partial<Brief["prefer"]>) => set({ prefer: { ...now.prefer, ...part } });
  const require = (part: Partial<Brief["require"]>) => set({ require: { ...now.require, ...part } });
  const wish = now.prefer.level;
  const formats = useFormats();
  const fields = useQuery({ queryKey: ["tag-fields"], queryFn: api.tagFields }).data ?? [];
  const dropOffs = useDropOffs().data?.drop_offs ?? [];
  const can = formats.of(now.prefer.container);
  const mode = now.prefer.mode ?? can?.knobs[0]?.[0];
  const knob = can?.knobs.find(([one]) => one === mode)?.[1];
  const changed = JSON.stringify(now) !== JSON.stringify(brief);
  return (
    <form
      className="brief-form"
      onSubmit={(event) => {
        event.preventDefault();
        save(now);
      }}
    >
      <Row label="Title">
        <Input value={now.title} maxLength={80} onChange={(event) => set({ title: event.target.value })} />
      </Row>
      <Row label="Summary">
        <Input value={now.sentence} onChange={(event) => set({ sentence: event.target.value })} />
      </Row>
      <Row label="Reason">
        <Input value={now.why} onChange={(event) => set({ why: event.target.value })} />
      </Row>
      <Row label="Silence below">
        <InputNumber
          aria-label="Silence below"
          min={-120}
          max={-20}
          value={now.prefer.silence_dbfs}
          placeholder="automatic"
          suffix="dBFS"
          onChange={(silence_dbfs) => prefer({ silence_dbfs })}
        />
      </Row>
      <Row label="Format">
        <Select
          aria-label="Format of the brief"
          value={now.prefer.container}
          options={formats.all.map((one) => ({ value: one.container, label: one.title }))}
          onChange={(container) => {
            const lossy = formats.of(container)?.lossy;
            // What another format was set to does not hold for this one.
            const encoding = lossy ? ("lossy" as const) : ("keep" as const);
            prefer({ container, encoding, mode: null, kbps: null, coding_quality: null });
            require({ containers: [] });
          }}
        />
      </Row>
      {can?.lossy && (
        <Row label="Bit rate">
          <Select
            aria-label="Mode of the bit rate"
            value={mode}
            options={can.knobs.map(([value]) => ({ value, label: MODES[value] }))}
            onChange={(next) => prefer({ mode: next ?? null, kbps: null, coding_quality: null })}
          />
          {knob === "kbps" ? (
            <Select
              aria-label="Bit rate of the brief"
              value={now.prefer.kbps}
              placeholder="default"
              options={can.kbps.map((value) => ({ value, label: `${value} kbit/s` }))}
              onChange={(kbps) => prefer({ kbps })}
            />
          ) : (
            <InputNumber
              aria-label="Quality of the brief"
              min={0}
              max={10}
              value={now.prefer.coding_quality}
              placeholder="default"
              suffix="of 10"
              onChange={(coding_quality) => prefer({ coding_quality })}
            />
          )}
        </Row>
      )}
      {!can?.lossy && (
        <Row label="Depth">
          <Select
            aria-label="Depth of the brief"
            value={now.prefer.encoding as string}
            options={["keep", ...(can?.depths.map(([one]) => one) ?? [])].map((value) => ({
              value,
              label: formats.depth(value),
            }))}
            onChange={(encoding) => prefer({ encoding: encoding as Brief["prefer"]["encoding"] })}
          />
        </Row>
      )}
      <Row label="Rate">
        <Select
          aria-label="Rate of the brief"
          value={String(now.prefer.rate_hz)}
          options={rateChoices(can)}
          onChange={(text) => prefer({ rate_hz: text === "keep" ? "keep" : Number(text) })}
        />
      </Row>
      <Row label="Level">
        <Select
          aria-label="Level of the brief"
          value={wish.kind}
          options={choices(["leave", "peak", "true-peak", "loudness"], LEVELS)}
          onChange={(kind) => prefer({ level: { ...wish, kind: kind as LevelRequest["kind"] } })}
        />
        {wish.kind !== "leave" && (
          <InputNumber
            aria-label="Target of the brief"
            min={-70}
            max={0}
            value={wish.target}
            suffix={LEVEL_UNITS[wish.kind]}
            onChange={(target) => target !== null && prefer({ level: { ...wish, target } })}
          />
        )}
      </Row>
      <Row label="Max true peak">
        <InputNumber
          min={-20}
          max={6}
          value={now.require.true_peak_max_dbtp}
          suffix="dBTP"
          placeholder="any"
          onChange={(true_peak_max_dbtp) => require({ true_peak_max_dbtp })}
        />
      </Row>
      <Row label="Max size">
        <InputNumber
          min={0.1}
          value={now.require.bytes_max === null ? null : now.require.bytes_max / 1e6}
          suffix="MB"
          placeholder="any"
          onChange={(mb) => require({ bytes_max: mb === null ? null : Math.round(mb * 1e6) })}
        />
      </Row>
      <Row label="File name">
        <Input value={now.label_pattern} onChange={(event) => set({ label_pattern: event.target.value })} />
      </Row>
      <Row label="Sub-folder">
        <Input value={now.drop_off} onChange={(event) => set({ drop_off: event.target.value })} />
      </Row>
      <Row label="Send to">
        <Select
          mode="multiple"
          aria-label="Automatic drop-offs"
          placeholder="not sent automatically"
          value={[...now.sends_to]}
          options={dropOffs.map(({ drop_off: { name } }) => ({ value: name, label: name }))}
          notFoundContent="No drop-offs. Add one in Outbox."
          onChange={(sends_to) => set({ sends_to })}
        />
      </Row>
      <Row label="Required tags">
        <Select
          mode="multiple"
          aria-label="Required tags"
          value={now.tags}
          options={[
            ...fields.map((one) => ({ value: one.name, label: one.title })),
            { value: "cover", label: "Cover" },
          ]}
          onChange={(tags) => set({ tags })}
        />
      </Row>
      <Button type="primary" htmlType="submit" disabled={!changed} loading={saving}>
        Save
      </Button>
    </form>
  );
}
