import type { Row, Trial } from "../../../api/client";
import { drawSpectra, Picture } from "../../../shared/Picture";
import { Figures } from "../../../shared/text/Figures";
import { level } from "../../../shared/text/format";
import type { Mode } from "../../../shared/theme";
import type { CodecTrial } from "../queries";

/** What a codec does to this mix: pieces of it are coded and decoded, and compared with what went in. */
export function CodecPicture({ row, trial, mode }: { row: Row; trial: CodecTrial; mode: Mode }) {
  if (!trial) return null;
  if (trial.error) return <p role="alert">{trial.error.message}</p>;
  if (!trial.data) return <p className="quiet">Encoding test passages …</p>;
  const found = trial.data;
  return (
    <>
      {row.lossy && (
        <>
          <Picture
            mode={mode}
            label="Spectrum of the mix and the coding error, with the encoder cutoff"
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
            <span className="key-wave">mix</span> <span className="key-over">coding error</span>
          </p>
        </>
      )}
      <Figures lines={linesOf(found, row)} />
    </>
  );
}

function linesOf(found: Trial, row: Row): (readonly [string, string])[] {
  const lines: (readonly [string, string])[] = [
    [row.size.basis === "trial" ? "Size (from test passages)" : "Size", row.size.words],
  ];
  if (!row.lossy) return lines;
  if (found.mix_dbfs !== null && found.difference_dbfs !== null) {
    const below = found.mix_dbfs - found.difference_dbfs;
    lines.push(["Coding error", level(found.difference_dbfs)]);
    lines.push(["Coding error below the mix", `${below.toFixed(1)} dB`]);
  }
  if (found.peak_before_dbfs !== null && found.peak_after_dbfs !== null) {
    lines.push(["Peak before encoding", level(found.peak_before_dbfs)]);
    lines.push(["Peak after decoding", level(found.peak_after_dbfs)]);
  }
  if (found.cutoff) {
    const encoder = found.cutoff;
    const edge = (encoder.edge_hz / 1000).toFixed(1);
    lines.push(["Encoder cutoff", encoder.full ? "none, full bandwidth" : `${edge} kHz (−3 dB)`]);
    if (!encoder.full)
      lines.push([
        "Mix energy above cutoff",
        found.above_cutoff_db === null ? "nothing" : `${level(found.above_cutoff_db, "dB")} of its power`,
      ]);
  }
  return lines;
}
