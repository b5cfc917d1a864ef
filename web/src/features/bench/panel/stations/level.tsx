import { Button, Input, InputNumber, Select, Switch } from "antd";
import { type ReactNode, useId } from "react";
import type { LevelRequest, Limiting } from "../../../../api/client";
import { Figures } from "../../../../shared/text/Figures";
import { level as inWords } from "../../../../shared/text/format";
import { LEVEL_UNITS } from "../../../../shared/text/words";
import { useSession } from "../../session";
import { LEVELS } from "../../ticket/deliveryOptions";
import { Field } from "../Field";
import { LevelPicture } from "../StationPictures";
import { type FieldsProps, type PanelProps, type StationUi, useChoices } from "./panel";

function Fields(props: FieldsProps) {
  const { row } = props;
  const { now, set, field } = useChoices(props);
  const { targets } = useSession().defaults;
  const { level } = now;
  return (
    <>
      {field("level", "Level", (id) => (
        <Select
          id={id}
          size="small"
          value={level.kind}
          options={LEVELS}
          onChange={(kind) => set({ level: { ...level, kind, target: targets[kind] ?? 0 } })}
        />
      ))}
      <LevelDetails level={level} lossy={row.lossy} setLevel={(next) => set({ level: next })} />
    </>
  );
}

function Line({ label, children }: { label: string; children: (id: string) => ReactNode }) {
  const id = useId();
  return (
    <div className="delivery-field">
      <label htmlFor={id}>{label}</label>
      {children(id)}
    </div>
  );
}

interface ToggleProps {
  label: string;
  title?: string;
  checked: boolean;
  set: (value: boolean) => void;
}

function Toggle({ label, set, ...about }: ToggleProps) {
  return <Line label={label}>{(id) => <Switch id={id} size="small" {...about} onChange={set} />}</Line>;
}

interface DetailsProps {
  level: LevelRequest;
  lossy: boolean;
  setLevel: (level: LevelRequest) => void;
}

function LevelDetails({ level, lossy, setLevel }: DetailsProps) {
  if (level.kind === "leave") return null;
  const figure = (name: "target" | "ceiling_dbtp" | "max_reduction_db", label: string, about: object) => (
    <Line label={label}>
      {(id) => (
        <InputNumber
          id={id}
          size="small"
          {...about}
          value={level[name]}
          onChange={(value) => value !== null && setLevel({ ...level, [name]: value })}
        />
      )}
    </Line>
  );
  const toggle = (name: "limit" | "only_down" | "back_off", label: string, title?: string) => (
    <Toggle
      label={label}
      {...(title && { title })}
      checked={level[name]}
      set={(value) => setLevel({ ...level, [name]: value })}
    />
  );
  return (
    <>
      {figure("target", "Target", { min: -70, max: 0, step: 0.1, suffix: LEVEL_UNITS[level.kind] })}
      {level.kind === "loudness" && (
        <>
          {figure("ceiling_dbtp", "Ceiling", { min: -20, max: 0, step: 0.1, suffix: "dBTP" })}
          {toggle("limit", "Use limiter")}
          {level.limit && (
            <>
              {figure("max_reduction_db", "Max gain reduction", { min: 0, max: 40, step: 0.5, suffix: "dB" })}
              <LimiterDetails
                limiting={level.limiting}
                set={(limiting) => setLevel({ ...level, limiting })}
              />
            </>
          )}
        </>
      )}
      {toggle("only_down", "Never raise")}
      {lossy &&
        toggle(
          "back_off",
          "Also after decoding",
          "Re-encodes lower until decoded peaks stay under the ceiling",
        )}
    </>
  );
}

const CHARACTERS: { value: Limiting["character"]; label: string; title: string }[] = [
  { value: "transparent", label: "Transparent", title: "Low tones keep their shape" },
  { value: "dense", label: "Dense", title: "Louder: shorter gain changes, low tones distort" },
];

function LimiterDetails({ limiting, set }: { limiting: Limiting; set: (limiting: Limiting) => void }) {
  return (
    <>
      <Line label="Limiter character">
        {(id) => (
          <Select
            id={id}
            size="small"
            value={limiting.character}
            options={CHARACTERS}
            onChange={(character) => set({ ...limiting, character })}
          />
        )}
      </Line>
      <Toggle
        label="Link sides"
        title="Brief peaks reduce both sides; off: their own side only"
        checked={limiting.sides === "together"}
        set={(linked) => set({ ...limiting, sides: linked ? "together" : "apart" })}
      />
      <Toggle
        label="Clip brief peaks"
        title="Up to 1.5 dB of peaks shorter than 0.25 ms; for bright, dense mixes"
        checked={limiting.clip}
        set={(clip) => set({ ...limiting, clip })}
      />
    </>
  );
}

function GroupField(props: FieldsProps) {
  const { line } = props;
  const { edit } = useChoices(props);
  return (
    <Field label="Group" departs={line.group !== ""} back={() => edit((one) => ({ ...one, group: "" }))}>
      {(id) => (
        <Input
          id={id}
          size="small"
          key={line.group}
          defaultValue={line.group}
          maxLength={40}
          placeholder="none (a group shares one gain)"
          onBlur={(event) => {
            const group = event.target.value.trim();
            if (group !== line.group) edit((one) => ({ ...one, group }));
          }}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      )}
    </Field>
  );
}

function Panel({ mode, levels, ...about }: PanelProps) {
  const { row } = about;
  const trial = levels.of(row.id);
  const found = trial.result;
  return (
    <>
      <div className="delivery-controls">
        <Fields {...about} />
        <GroupField {...about} />
      </div>
      <LevelPicture row={row} mode={mode} />
      <Button size="small" loading={trial.running} onClick={() => levels.measure(row.id)}>
        Measure level
      </Button>
      {trial.error && (
        <p className="field-error" role="alert">
          {trial.error}
        </p>
      )}
      <Figures
        lines={
          found
            ? [
                ["Gain", inWords(found.gain_db, "dB")],
                ["Loudness after", inWords(found.integrated_lufs, "LUFS")],
                ["True peak after", inWords(found.true_peak_dbtp, "dBTP")],
                ["Peak gain reduction", inWords(Math.min(0, ...found.reduction_db), "dB")],
              ]
            : [["Estimated peak", inWords(row.forecast.sample_peak_dbfs)]]
        }
      />
    </>
  );
}

export const level: StationUi = {
  title: "Level",
  said: (row, station) =>
    station ? [station.label, station.detail] : ["unchanged", inWords(row.forecast.integrated_lufs, "LUFS")],
  idle: "The level stays as it is.",
  Panel,
};
