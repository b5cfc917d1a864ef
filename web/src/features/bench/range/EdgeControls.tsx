import { Checkbox, InputNumber, Segmented, Select } from "antd";
import { Fragment, useId } from "react";
import type { AfterView, Edges } from "../../../api/client";
import type { Range } from "../model";

const ENDS: { value: Edges["end"]; label: string }[] = [
  { value: "stop", label: "Cut" },
  { value: "hold", label: "Extend" },
  { value: "ring", label: "Ring out" },
  { value: "fold", label: "Fold" },
  { value: "crossfade", label: "Crossfade" },
];

const END_WORDS: Record<Edges["end"], string> = {
  stop: "Stops at the end of the range.",
  hold: "Continues for a set time after the end.",
  ring: "Continues until the tail has decayed.",
  fold: "For loops: adds the tail to the start.",
  crossfade: "For loops from continuing music: crossfades the end into the start.",
};

const CURVES: { value: Edges["fade_in_curve"]; label: string }[] = [
  { value: "equal-power", label: "Equal power" },
  { value: "linear", label: "Linear" },
  { value: "s", label: "S" },
  { value: "logarithmic", label: "Logarithmic" },
];

const FADES = [
  { label: "Fade in", length: "fade_in_s", curve: "fade_in_curve" },
  { label: "Fade out", length: "fade_out_s", curve: "fade_out_curve" },
] as const;

const SILENCES = [
  { label: "Silence before", length: "silence_before_s" },
  { label: "Silence after", length: "silence_after_s" },
] as const;

const MOST_DECLICK_MS = 50;
const MOST_CROSSFADE_MS = 200;
const TAKES_A_TAIL: readonly Edges["end"][] = ["ring", "fold"];

interface SecondsProps {
  label: string;
  value: number;
  most: number;
  unit?: "s" | "ms";
  onChange: (seconds: number) => void;
}

function Seconds({ label, value, most, unit = "s", onChange }: SecondsProps) {
  const id = useId();
  return (
    <>
      <label htmlFor={id}>{label}</label>
      <InputNumber
        id={id}
        size="small"
        min={0}
        max={most}
        step={unit === "s" ? 0.1 : 1}
        value={value}
        suffix={unit}
        onChange={(next) => onChange(next ?? 0)}
      />
    </>
  );
}

interface EdgeControlsProps {
  range: Range;
  setRange: (range: Range) => void;
  /** What follows the end of the range, once that is known. */
  after: AfterView | undefined;
}

/** How the edges of the range are treated: its end, its fades, silence around it. */
export function EdgeControls({ range, setRange, after }: EdgeControlsProps) {
  const { edges } = range;
  const loops = edges.end === "fold" || edges.end === "crossfade";
  // A tail that is none would be laid over the music.
  const options = ENDS.map((one) => ({
    ...one,
    disabled: after?.kind === "music" && TAKES_A_TAIL.includes(one.value) && one.value !== edges.end,
  }));
  const below = useId();
  const change = (part: Partial<Edges>) => setRange({ ...range, edges: { ...edges, ...part } });
  return (
    <div className="edge-controls">
      <Segmented
        size="small"
        aria-label="End of the range"
        options={options}
        value={edges.end}
        onChange={(end) => change(end === "hold" && !edges.hold_s ? { end, hold_s: 2 } : { end })}
      />
      <p className="quiet">
        {END_WORDS[edges.end]} {after && after.kind !== "nothing" && <b>{after.sentence}</b>}
      </p>
      <div className="edge-grid">
        {edges.end === "hold" && (
          <>
            <Seconds
              label="Extend by"
              value={edges.hold_s}
              most={3600}
              onChange={(hold_s) => change({ hold_s })}
            />
            <span />
          </>
        )}
        {(edges.end === "ring" || edges.end === "fold") && (
          <>
            <label htmlFor={below}>Until decay below</label>
            <InputNumber
              id={below}
              size="small"
              min={-120}
              max={-20}
              value={edges.ring_below_dbfs}
              suffix="dBFS"
              onChange={(next) => next !== null && change({ ring_below_dbfs: next })}
            />
            <span />
            <Seconds
              label="Max tail"
              value={edges.ring_limit_s}
              most={3600}
              onChange={(ring_limit_s) => change({ ring_limit_s })}
            />
            <span />
          </>
        )}
        {edges.end === "crossfade" && (
          <>
            <Seconds
              label="Crossfade"
              unit="ms"
              value={edges.crossfade_ms}
              most={MOST_CROSSFADE_MS}
              onChange={(crossfade_ms) => change({ crossfade_ms })}
            />
            <span className="quiet">{edges.crossfade_ms ? "" : "0: automatic"}</span>
          </>
        )}
        {FADES.map(({ label, length, curve }) => (
          <Fragment key={label}>
            <Seconds
              label={label}
              value={edges[length]}
              most={3600}
              onChange={(value) => change({ [length]: value })}
            />
            <Select
              size="small"
              aria-label={`Curve of the ${label.toLowerCase()}`}
              options={CURVES}
              value={edges[curve]}
              onChange={(value) => change({ [curve]: value })}
            />
          </Fragment>
        ))}
        <Seconds
          label="De-click"
          unit="ms"
          value={edges.declick_ms}
          most={MOST_DECLICK_MS}
          onChange={(declick_ms) => change({ declick_ms })}
        />
        <span className="quiet">{loops ? "not for loops" : "at edges without a fade"}</span>
        {SILENCES.map(({ label, length }) => (
          <Fragment key={label}>
            <Seconds
              label={label}
              value={edges[length]}
              most={60}
              onChange={(value) => change({ [length]: value })}
            />
            <span />
          </Fragment>
        ))}
      </div>
      <Checkbox checked={edges.room_tone} onChange={(event) => change({ room_tone: event.target.checked })}>
        Room tone of the recording as silence
      </Checkbox>
    </div>
  );
}
