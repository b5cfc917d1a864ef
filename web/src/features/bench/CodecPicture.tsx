import type { Row, Trial } from "../../api/client";
import type { Mode } from "../../app/theme";
import { Figures } from "../../shared/Figures";
import { level } from "../../shared/format";
import { coloursOf, prepare } from "../../shared/waveform/draw";
import { levelGrid, Picture } from "./Picture";
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
            draw={(canvas) => drawCodec(canvas, found, row.settled.rate_hz)}
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
  const lines: (readonly [string, string])[] = [["Size, from a trial", row.size.words]];
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

const TOP_DB = 0;
const FLOOR_DB = -150;

function drawCodec(canvas: HTMLCanvasElement, trial: Trial, rateHz: number): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const first = Math.log(20);
  const last = Math.log(rateHz / 2);
  const xOf = (hz: number) => ((Math.log(Math.max(20, hz)) - first) / (last - first)) * width;
  const yOf = (db: number) =>
    14 + ((TOP_DB - Math.max(FLOOR_DB, Math.min(TOP_DB, db))) / (TOP_DB - FLOOR_DB)) * (height - 32);
  const encoder = trial.cutoff;
  if (encoder && !encoder.full) {
    pen.fillStyle = colours.rule;
    pen.globalAlpha = 0.6;
    pen.fillRect(xOf(encoder.edge_hz), 0, width, height - 16);
    pen.globalAlpha = 1;
  }
  levelGrid(pen, canvas, width, [0, -50, -100, -150], yOf, colours.rule, colours.quiet);
  for (const [hz, label] of [
    [100, "100 Hz"],
    [1000, "1 k"],
    [10_000, "10 k"],
  ] as const)
    pen.fillText(label, xOf(hz) - 8, height - 4);
  const curve = (points: Trial["mix_curve"], colour: string) => {
    pen.strokeStyle = colour;
    pen.lineWidth = 1.6;
    pen.beginPath();
    for (const [hz, db] of points) if (hz <= rateHz / 2) pen.lineTo(xOf(hz), yOf(db));
    pen.stroke();
  };
  curve(trial.mix_curve, colours.wave);
  curve(trial.difference_curve, colours.over);
}
