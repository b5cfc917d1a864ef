import type { Row, Trial } from "../../api/client";
import type { Mode } from "../../app/theme";
import { Figures } from "../../shared/Figures";
import { level } from "../../shared/format";
import { drawSpectra, Picture } from "../../shared/Picture";
import type { CodecTrial } from "./queries";

/** What a codec does to this mix: pieces of it are coded and decoded, and compared with what went in. */
export function CodecPicture({ row, trial, mode }: { row: Row; trial: CodecTrial; mode: Mode }) {
  if (!trial) return null;
  if (trial.error) return <p role="alert">{trial.error.message}</p>;
  if (!trial.data) return <p className="quiet">Trying pieces of this mix …</p>;
  const found = trial.data;
  return (
    <>
      {row.lossy && (
        <>
          <Picture
            mode={mode}
            label="Spectrum of the mix, of what is left out, and where the encoder stops"
            draw={(canvas) =>
              drawSpectra(canvas, {
                curves: [
                  { points: found.mix_curve, colour: "wave" },
                  { points: found.difference_curve, colour: "over" },
                ],
                lastHz: row.settled.rate_hz / 2,
                topDb: 0,
                floorDb: -150,
                levels: [0, -50, -100, -150],
                shadedFromHz: found.cutoff && !found.cutoff.full ? found.cutoff.edge_hz : undefined,
              })
            }
          />
          <p className="picture-key">
            <span className="key-wave">the mix</span>{" "}
            <span className="key-over">what is left out or added</span>
          </p>
        </>
      )}
      <Figures lines={linesOf(found, row)} />
    </>
  );
}

function linesOf(found: Trial, row: Row): (readonly [string, string])[] {
  const lines: (readonly [string, string])[] = [
    [row.size.basis === "trial" ? "Size, from a trial" : "Size", row.size.words],
  ];
  if (!row.lossy) return lines;
  if (found.mix_dbfs !== null && found.difference_dbfs !== null) {
    const below = found.mix_dbfs - found.difference_dbfs;
    lines.push(["Left out or added", level(found.difference_dbfs)]);
    lines.push(["Below the mix by", `${below.toFixed(1)} dB`]);
  }
  if (found.peak_before_dbfs !== null && found.peak_after_dbfs !== null) {
    lines.push(["Peak in, in these pieces", level(found.peak_before_dbfs)]);
    lines.push(["Peak out", level(found.peak_after_dbfs)]);
  }
  if (found.cutoff) {
    const encoder = found.cutoff;
    const edge = (encoder.edge_hz / 1000).toFixed(1);
    lines.push(["Encoder stops at", encoder.full ? "nowhere, all the rate carries" : `${edge} kHz (−3 dB)`]);
    if (!encoder.full)
      lines.push([
        "This mix above that",
        found.above_cutoff_db === null ? "nothing" : `${level(found.above_cutoff_db, "dB")} of its power`,
      ]);
  }
  return lines;
}
