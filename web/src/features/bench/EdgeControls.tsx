import { InputNumber, Segmented, Select } from "antd";
import { useId } from "react";
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
  ring: "Goes on until the tail has died away, at most 30 s.",
  fold: "For loops: what rings past the end is added to the start.",
};

const CURVES: { value: Edges["fade_in_curve"]; label: string }[] = [
  { value: "equal-power", label: "Equal power" },
  { value: "linear", label: "Linear" },
  { value: "s", label: "S" },
  { value: "logarithmic", label: "Logarithmic" },
];

interface SecondsProps {
  label: string;
  value: number;
  most: number;
  onChange: (seconds: number) => void;
}

function Seconds({ label, value, most, onChange }: SecondsProps) {
  const id = useId();
  return (
    <>
      <label htmlFor={id}>{label}</label>
      <InputNumber
        id={id}
        size="small"
        min={0}
        max={most}
        step={0.1}
        value={value}
        suffix="s"
        onChange={(next) => onChange(next ?? 0)}
      />
    </>
  );
}

/** How the edges of the range are treated: its end, its fades, silence around it. */
export function EdgeControls({ range, setRange }: { range: Range; setRange: (range: Range) => void }) {
  const { edges } = range;
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
        <Seconds
          label="Fade in"
          value={edges.fade_in_s}
          most={3600}
          onChange={(fade_in_s) => change({ fade_in_s })}
        />
        <Select
          size="small"
          aria-label="Curve of the fade in"
          options={CURVES}
          value={edges.fade_in_curve}
          onChange={(fade_in_curve) => change({ fade_in_curve })}
        />
        <Seconds
          label="Fade out"
          value={edges.fade_out_s}
          most={3600}
          onChange={(fade_out_s) => change({ fade_out_s })}
        />
        <Select
          size="small"
          aria-label="Curve of the fade out"
          options={CURVES}
          value={edges.fade_out_curve}
          onChange={(fade_out_curve) => change({ fade_out_curve })}
        />
        <Seconds
          label="Silence before"
          value={edges.silence_before_s}
          most={60}
          onChange={(silence_before_s) => change({ silence_before_s })}
        />
        <span />
        <Seconds
          label="Silence after"
          value={edges.silence_after_s}
          most={60}
          onChange={(silence_after_s) => change({ silence_after_s })}
        />
        <span />
      </div>
    </div>
  );
}
