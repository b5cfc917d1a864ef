import type { PressedFile, Pressing } from "../../api/client";
import { Picture } from "../../shared/Picture";
import type { Mode } from "../../shared/theme";
import { useHeld } from "./AgainstMix";
import { drawStrip } from "./drawHeld";

/** The difference of a file in a line and over time, after its comparison with the mix. */
export function Strip({ pressing, file, mode }: { pressing: Pressing; file: PressedFile; mode: Mode }) {
  const held = useHeld(pressing.id, file.number);
  const report = held.data?.report;
  if (!report) return null;
  const { difference } = report;
  return (
    <>
      <small>{report.sentence}</small>
      {difference && difference.peak_dbfs !== null && (
        <Picture
          label="Difference over time"
          mode={mode}
          draw={(canvas) => drawStrip(canvas, difference.curve_dbfs)}
        />
      )}
    </>
  );
}
