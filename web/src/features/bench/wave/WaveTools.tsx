import { Button, Select } from "antd";
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
  return (
    <>
      <Select
        size="small"
        aria-label="Time units"
        value={unit}
        popupMatchSelectWidth={false}
        options={UNITS.map((one) => ({ ...one, disabled: without(one.value) }))}
        onChange={props.setUnit}
      />
      <Select
        size="small"
        aria-label="Snapping"
        value={snap}
        popupMatchSelectWidth={false}
        options={SNAPS.map((one) => ({ ...one, disabled: without(one.value) }))}
        onChange={props.setSnap}
      />
      <Button size="small" aria-pressed={decibels} onClick={() => props.setDecibels(!decibels)}>
        {decibels ? "dB scale" : "Linear scale"}
      </Button>
    </>
  );
}
