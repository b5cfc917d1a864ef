import type { ReactNode } from "react";
import type { HeldReport, PressedFile } from "../../api/client";
import { type Curve, drawSpectra, Picture } from "../../shared/Picture";
import { level } from "../../shared/text/format";
import { capital, PREDICTIONS } from "../../shared/text/words";
import type { Mode } from "../../shared/theme";
import { comesNear, drawDifference, drawHearing, drawLevels, drawOverTime } from "./drawHeld";

/** Everything that can be seen of a file beside its mix. */
export function HeldPictures({ report, file, mode }: { report: HeldReport; file: PressedFile; mode: Mode }) {
  const { difference, hearing, looks } = report;
  const differs = difference !== null && difference.peak_dbfs !== null;
  return (
    <div className="held-pictures">
      {differs && (
        <Shown
          caption={
            <>
              Difference over time <b>{level(difference.rms_dbfs, "dBFS")}</b>,{" "}
              {level(difference.peak_dbfs, "dBFS")} max
            </>
          }
          label={`Difference over time, ${level(difference.rms_dbfs, "dBFS")} RMS`}
          mode={mode}
          draw={(canvas) => drawDifference(canvas, difference.curve_dbfs)}
        />
      )}
      {report.spectra && <Spectra report={report} file={file} mode={mode} differs={differs} />}
      {hearing && hearing.total_db !== null && (
        <Shown
          wide
          caption={
            <>
              Audibility over time <b>{capital(PREDICTIONS[hearing.prediction])}</b> (model prediction,{" "}
              {Math.abs(hearing.total_db).toFixed(1)} dB {hearing.total_db < 0 ? "below" : "above"} masking on
              average)
            </>
          }
          label={`${capital(PREDICTIONS[hearing.prediction])}. ${hearing.sentence}`}
          mode={mode}
          draw={comesNear(hearing) ? (canvas) => drawHearing(canvas, hearing) : null}
        />
      )}
      {looks && (
        <>
          <Shown
            caption={
              <>
                Loudness over time, momentary, in LUFS: <span className="of-mix">the mix</span>,{" "}
                <span className="of-file">the file</span>
              </>
            }
            label="Loudness of the mix and the file over time"
            mode={mode}
            draw={(canvas) =>
              drawOverTime(
                canvas,
                [
                  { values: looks.loudness_lufs.mix, colour: "outside" },
                  { values: looks.loudness_lufs.file, colour: "wave" },
                ],
                { top: 0, floor: -60, levels: [-10, -20, -30, -40, -50], unit: "" },
              )
            }
          />
          <Shown
            caption={
              <>
                Level histogram: <span className="of-mix">the mix</span>,{" "}
                <span className="of-file">the file</span>
              </>
            }
            label="Levels of the samples of the mix and the file"
            mode={mode}
            draw={(canvas) => drawLevels(canvas, looks)}
          />
        </>
      )}
      {looks?.reduction_db && (
        <Shown
          caption={
            <>
              Gain reduction <b>{level(Math.min(0, ...looks.reduction_db), "dB")}</b> max
            </>
          }
          label="Gain reduction over time"
          mode={mode}
          draw={(canvas) =>
            drawOverTime(canvas, [{ values: looks.reduction_db ?? [], colour: "edge", hangs: true }], {
              top: 0,
              floor: Math.min(-6, ...(looks.reduction_db ?? [])) - 1,
              levels: [-3, -6, -12],
            })
          }
        />
      )}
    </div>
  );
}

function Spectra({
  report,
  file,
  mode,
  differs,
}: {
  report: HeldReport;
  file: PressedFile;
  mode: Mode;
  differs: boolean;
}) {
  const { spectra } = report;
  if (!spectra) return null;
  const { masked, stops_hz: stopsHz } = spectra;
  const curves: Curve[] = [
    { points: spectra.mix, colour: "outside" },
    { points: spectra.file, colour: "wave" },
  ];
  if (differs) curves.push({ points: spectra.difference, colour: "edge" });
  if (masked.length) curves.push({ points: masked, colour: "loudness", dashed: true });
  return (
    <Shown
      caption={
        <>
          Spectrum: <span className="of-mix">the mix</span>, <span className="of-file">the file</span>
          {differs && (
            <>
              , <span className="of-difference">difference</span>
            </>
          )}
          {masked.length > 0 && (
            <>
              , <span className="of-masked">masking threshold</span>
            </>
          )}
          {stopsHz !== null && `, encoder cutoff ${(stopsHz / 1000).toFixed(1)} kHz`}
        </>
      }
      label="Spectrum of mix, file, difference and masking threshold"
      mode={mode}
      draw={(canvas) =>
        drawSpectra(canvas, {
          curves,
          lastHz: file.sample_rate_hz / 2,
          stopsHz,
          topDb: -20,
          floorDb: -160,
          levels: [-40, -80, -120],
        })
      }
    />
  );
}

export function Shown({
  caption,
  label,
  mode,
  draw,
  wide,
}: {
  caption: ReactNode;
  label: string;
  mode: Mode;
  /** Nothing where the sentence says it all. */
  draw: ((canvas: HTMLCanvasElement) => void) | null;
  wide?: boolean;
}) {
  return (
    <figure className={wide ? "wide" : ""}>
      <figcaption>{caption}</figcaption>
      {draw ? <Picture label={label} mode={mode} draw={draw} /> : <small>Below masking throughout.</small>}
    </figure>
  );
}
