import { InputNumber, Segmented, Select } from "antd";
import { Fragment, useId } from "react";
import type { Edges } from "../../api/client";
import type { Range } from "./model";

const ENDS: { value: Edges["end"]; label: string }[] = [
  { value: "stop", label: "Stop" },
  { value: "hold", label: "Hold" },
  { value: "ring", label: "Ring out" },
  { value: "fold", label: "Fold" },
];

const END_WORDS: Record<Edges["end"], string> = {
  stop: "Stops at the end of the range.",
  hold: "Goes on for a set time after the end.",
  ring: "Goes on until the tail has died away.",
  fold: "For loops: what rings past the end is added to the start.",
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

/** How the edges of the range are treated: its end, its fades, silence around it. */
export function EdgeControls({ range, setRange }: { range: Range; setRange: (range: Range) => void }) {
  const { edges } = range;
  const below = useId();
  const change = (part: Partial<Edges>) => setRange({ ...range, edges: { ...edges, ...part } });
  return (
    <div className="edge-controls">
      <Segmented
        block
        size="small"
        aria-label="End of the range"
        options={ENDS}
        value={edges.end}
        onChange={(end) => change(end === "hold" && !edges.hold_s ? { end, hold_s: 2 } : { end })}
      />
      <p className="quiet">{END_WORDS[edges.end]}</p>
      <div className="edge-grid">
        {edges.end === "hold" && (
          <>
            <Seconds
              label="Hold"
              value={edges.hold_s}
              most={3600}
              onChange={(hold_s) => change({ hold_s })}
            />
            <span />
          </>
        )}
        {(edges.end === "ring" || edges.end === "fold") && (
          <>
            <label htmlFor={below}>Until below</label>
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
              label="At most"
              value={edges.ring_limit_s}
              most={3600}
              onChange={(ring_limit_s) => change({ ring_limit_s })}
            />
            <span />
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
        <span className="quiet">
          {edges.end === "fold" ? "not on a folded loop" : "at edges without a fade"}
        </span>
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
    </div>
  );
}
