import type { Mix, Row } from "../../../api/client";
import { type Curve, drawSpectra, Picture } from "../../../shared/Picture";
import { type FigureLine, Figures } from "../../../shared/text/Figures";
import { clock, level } from "../../../shared/text/format";
import type { Mode } from "../../../shared/theme";
import type { Range } from "../model";
import { useRangeMeasures, useRangeSpectrum, useRangeTruePeak } from "../queries";

const lu = (value: number | null) => (value === null ? "too short" : `${value.toFixed(1)} LU`);

/** What leaves of something beside the mix: a stem, a sum, a capture, measured itself. */
export function PartFigures({ row }: { row: Row }) {
  const { before } = row;
  return (
    <Figures
      lines={[
        ["Integrated loudness", level(before.integrated_lufs, "LUFS")],
        ["Sample peak", level(before.sample_peak_dbfs)],
        ["True peak", level(before.true_peak_dbtp, "dBTP")],
      ]}
    />
  );
}

/** Everything measured of the whole mix. */
export function MixFigures({ mix, mode }: { mix: Mix; mode: Mode }) {
  const found = mix.measures;
  const lines: FigureLine[] = [
    ["Integrated loudness", level(found.integrated_lufs, "LUFS")],
    ["Loudness range", lu(found.lra_lu)],
    ["Max short-term", level(found.max_short_term_lufs, "LUFS")],
    ["Max momentary", level(found.max_momentary_lufs, "LUFS")],
    [
      "Sample peak",
      `${level(found.sample_peak_dbfs)} at ${clock(Math.round(found.sample_peak_at_s * mix.rate_hz), mix.rate_hz)}`,
    ],
    ["True peak", level(found.true_peak_dbtp, "dBTP")],
    ["Clipped samples", found.clipped_samples.toLocaleString("en-GB")],
    ["Noise floor", level(found.noise_floor_dbfs)],
    ["Effective bit depth", found.effective_bits === null ? "lossy" : String(found.effective_bits)],
    ["Audio bandwidth", `${(found.effective_bandwidth_hz / 1000).toFixed(1)} kHz`],
  ];
  if (found.correlation !== null) lines.push(["Correlation", found.correlation.toFixed(2)]);
  if (found.balance_db !== null) lines.push(["Balance", level(found.balance_db, "dB")]);
  lines.push(["DC offset", found.dc_offset.map((one) => `${(one * 100).toFixed(3)} %`).join(", ")]);
  return (
    <>
      <Picture
        mode={mode}
        label="Mean spectrum of the mix"
        draw={(canvas) => drawSpectrum(canvas, found.spectrum, mix.rate_hz)}
      />
      <Figures lines={lines} />
    </>
  );
}

const drawSpectrum = (canvas: HTMLCanvasElement, points: Curve["points"], rateHz: number) =>
  drawSpectra(canvas, {
    curves: [{ points, colour: "wave" }],
    lastHz: rateHz / 2,
    topDb: 0,
    floorDb: -150,
    levels: [0, -50, -100, -150],
  });

/** Measurements of the selected range, from the mix's stored data. */
export function RangeFigures({ mix, range, mode }: { mix: Mix; range: Range; mode: Mode }) {
  const { data, error } = useRangeMeasures(mix, range);
  const spectrum = useRangeSpectrum(mix, range).data;
  const truePeak = useRangeTruePeak(mix, range);
  if (!data) return <p className="quiet">{error?.message ?? "Measuring"}</p>;
  const peak = truePeak.data;
  return (
    <>
      {spectrum && (
        <Picture
          mode={mode}
          label="Mean spectrum of the range"
          draw={(canvas) => drawSpectrum(canvas, spectrum, mix.rate_hz)}
        />
      )}
      <Figures
        lines={[
          ["Integrated loudness", level(data.integrated_lufs, "LUFS")],
          ["Loudness range", lu(data.lra_lu)],
          ["Max short-term", level(data.max_short_term_lufs, "LUFS")],
          ["Sample peak", level(data.sample_peak_dbfs)],
          [
            "True peak",
            peak
              ? `${level(peak.true_peak_dbtp, "dBTP")} near ${clock(peak.frame, mix.rate_hz)}`
              : (truePeak.error?.message ?? "measuring"),
          ],
          ["Level at the end", level(data.end_level_dbfs)],
          ["Noise floor", level(data.noise_floor_dbfs)],
        ]}
      />
    </>
  );
}
