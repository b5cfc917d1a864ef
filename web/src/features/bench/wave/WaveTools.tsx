import { Button, Popover, Segmented, Select } from "antd";
import type { Snap, Unit } from "../../../shared/time/timeUnits";

const UNITS: { value: Unit; label: string }[] = [
  { value: "time", label: "Time" },
  { value: "bars", label: "Bars and beats" },
  { value: "cd", label: "CD frames" },
  { value: "samples", label: "Samples" },
];

const SNAPS: { value: Snap; label: string }[] = [
  { value: "off", label: "No snapping" },
  { value: "bars", label: "To bars" },
  { value: "beats", label: "To beats" },
  { value: "markers", label: "To markers" },
  { value: "sound", label: "To audio start/end" },
  { value: "zero", label: "To zero crossings" },
  { value: "cd", label: "To CD frames" },
];

interface WaveToolsProps {
  unit: Unit;
  setUnit: (unit: Unit) => void;
  snap: Snap;
  setSnap: (snap: Snap) => void;
  decibels: boolean;
  setDecibels: (on: boolean) => void;
  hasTempo: boolean;
  hasMarkers: boolean;
}

/** How time is shown, what edges are drawn to, and how the height of the waveform is measured. */
export function WaveTools(props: WaveToolsProps) {
  const { unit, snap, decibels, hasTempo, hasMarkers } = props;
  const without = (value: string) =>
    (!hasTempo && (value === "bars" || value === "beats")) || (!hasMarkers && value === "markers");
  const words = (list: readonly { value: string; label: string }[], value: string) =>
    list.find((one) => one.value === value)?.label ?? "";
  const shown = `${words(UNITS, unit)}${snap === "off" ? "" : ", snaps"}`;
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      content={
        <div className="wave-tools">
          <Select
            size="small"
            aria-label="Time units"
            value={unit}
            options={UNITS.map((one) => ({ ...one, disabled: without(one.value) }))}
            onChange={props.setUnit}
          />
          <Select
            size="small"
            aria-label="Snapping"
            value={snap}
            options={SNAPS.map((one) => ({ ...one, disabled: without(one.value) }))}
            onChange={props.setSnap}
          />
          <Segmented
            size="small"
            aria-label="Scale of the waveform"
            value={decibels ? "db" : "linear"}
            options={[
              { value: "linear", label: "Linear scale" },
              { value: "db", label: "dB scale" },
            ]}
            onChange={(scale) => props.setDecibels(scale === "db")}
          />
        </div>
      }
    >
      <Button size="small" aria-label={`${shown}: view of the waveform`} title={words(SNAPS, snap)}>
        {shown} <span aria-hidden="true">▾</span>
      </Button>
    </Popover>
  );
}
