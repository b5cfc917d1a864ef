import type { PressedFile, Pressing } from "../../api/client";
import { Picture } from "../../shared/Picture";
import type { Mode } from "../../shared/theme";
import { useHeld } from "./AgainstMix";
import { drawStrip } from "./drawHeld";

/** The comparison of a file with the mix in a line: its progress, or the difference, over time too. */
export function Strip({ pressing, file, mode }: { pressing: Pressing; file: PressedFile; mode: Mode }) {
  const held = useHeld(pressing.id, file.number);
  const report = held.data?.report;
  if (held.data?.state === "running") {
    const { done, total } = held.data;
    return <small>Comparing with the mix: {Math.round((100 * done) / Math.max(1, total))} %</small>;
  }
  if (!report) return held.isSuccess ? <small>Not compared with the mix yet</small> : null;
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
