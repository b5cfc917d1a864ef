import { InputNumber, Select } from "antd";
import { useId } from "react";
import type { OrderShown, RunningOrder } from "../../../api/client";
import { level as inWords } from "../../../shared/text/format";

type Level = RunningOrder["level"];
type Kind = Level["level"]["kind"];

const WAYS: { value: string; label: string; kind: Kind; together: Level["together"] }[] = [
  { value: "leave", label: "From each brief", kind: "leave", together: "loudest" },
  { value: "peak", label: "One gain, from the highest peak", kind: "true-peak", together: "loudest" },
  { value: "loudest", label: "One gain, from the loudest track", kind: "loudness", together: "loudest" },
  { value: "whole", label: "One gain, from the whole album", kind: "loudness", together: "whole" },
  { value: "each", label: "Each to the same loudness", kind: "loudness", together: "each" },
];

const USUAL: Partial<Record<Kind, number>> = { "true-peak": -1, loudness: -14 };

/** One level for all entries: what decides it, and what it comes to. */
export function LevelSide({ shown, change }: { shown: OrderShown; change: (order: RunningOrder) => void }) {
  const id = useId();
  const { level, together } = shown.order.level;
  const way = WAYS.find((one) => one.kind === level.kind && one.together === together) ?? WAYS[0];
  const set = (part: Partial<Level>) => change({ ...shown.order, level: { ...shown.order.level, ...part } });
  const loudness = level.kind === "loudness";
  return (
    <section className="sheet levels" aria-label="Album level">
      <h2>Album level</h2>
      <p>{sentenceOf(shown)}</p>
      <div className="typed">
        <label htmlFor={id}>Method</label>
        <Select
          id={id}
          size="small"
          value={way?.value ?? "leave"}
          options={WAYS.map(({ value, label }) => ({ value, label }))}
          onChange={(value) => {
            const next = WAYS.find((one) => one.value === value);
            if (!next) return;
            const same = next.kind === level.kind;
            const target = same ? level.target : (USUAL[next.kind] ?? 0);
            set({ level: { ...level, kind: next.kind, target }, together: next.together });
          }}
        />
      </div>
      {level.kind !== "leave" && (
        <Figure
          label={loudness ? "Loudness, LUFS" : "True peak, dBTP"}
          value={level.target}
          least={-40}
          set={(target) => set({ level: { ...level, target } })}
        />
      )}
      {loudness && (
        <Figure
          label="Ceiling (dBTP)"
          value={level.ceiling_dbtp}
          least={-20}
          set={(ceiling_dbtp) => set({ level: { ...level, ceiling_dbtp } })}
        />
      )}
      <Bars shown={shown} />
    </section>
  );
}

function Figure({
  label,
  value,
  least,
  set,
}: {
  label: string;
  value: number;
  least: number;
  set: (value: number) => void;
}) {
  const id = useId();
  return (
    <div className="typed">
      <label htmlFor={id}>{label}</label>
      <InputNumber
        id={id}
        size="small"
        min={least}
        max={0}
        step={0.5}
        value={value}
        onChange={(next) => next !== null && set(next)}
      />
    </div>
  );
}

function sentenceOf({ order, entries, loudest }: OrderShown): string {
  const { level, together } = order.level;
  const unit = level.kind === "loudness" ? "LUFS" : "dBTP";
  if (level.kind === "leave") return "Each brief sets the level; files of one brief share one gain.";
  const gain = inWords(entries[0]?.gain_db ?? 0, "dB");
  if (together === "each")
    return `Every track at ${inWords(level.target, unit)}. Gapless tracks share one gain.`;
  if (together === "whole")
    return `One gain keeps relative levels: about ${gain}, album at ${inWords(level.target, unit)}.`;
  const by = loudest === null ? "" : (entries[loudest]?.title ?? "");
  return `One gain keeps relative levels: about ${gain}, ${by} at ${inWords(level.target, unit)}.`;
}

/** Every entry's resulting level, compared with the target. */
function Bars({ shown }: { shown: OrderShown }) {
  const { level } = shown.order.level;
  const peak = level.kind === "true-peak" || level.kind === "leave";
  const floor = peak ? -24 : -36;
  const height = (db: number | null) =>
    db === null ? 0 : Math.max(0.02, Math.min(1, (db - floor) / -floor));
  const target = level.kind === "leave" ? null : height(level.target);
  return (
    <div
      className="bars"
      role="img"
      aria-label={peak ? "True peaks of the tracks" : "Loudness of the tracks"}
    >
      {target !== null && <span className="bars-target" style={{ bottom: `${18 + 64 * target}px` }} />}
      {shown.entries.map((one, at) => {
        const now = peak ? one.true_peak_dbtp : one.integrated_lufs;
        return (
          <span
            key={shown.order.entries[at]?.id ?? at}
            className={at === shown.loudest ? "bar bar-loudest" : "bar"}
            title={`${one.title}: ${inWords(now === null ? null : now + one.gain_db, peak ? "dBTP" : "LUFS")}`}
          >
            <i style={{ height: `${64 * height(now === null ? null : now + one.gain_db)}px` }} />
            <small className="bar-name">
              {shown.entries.length <= 20 || one.track % 5 === 0 ? one.track || "·" : ""}
            </small>
          </span>
        );
      })}
    </div>
  );
}
