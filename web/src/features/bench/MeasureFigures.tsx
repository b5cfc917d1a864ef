import type { Mix } from "../../api/client";
import { clock, level } from "../../shared/format";
import type { Range } from "./model";
import { useRangeMeasures } from "./queries";

type Line = readonly [name: string, value: string];

function Figures({ lines }: { lines: readonly Line[] }) {
  return (
    <dl className="panel-figures">
      {lines.map(([name, value]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd>{value}</dd>
        </div>
      ))}
    </dl>
  );
}

const lu = (value: number | null) => (value === null ? "too short" : `${value.toFixed(1)} LU`);

/** Everything measured of the whole mix. */
export function MixFigures({ mix }: { mix: Mix }) {
  const found = mix.measures;
  const lines: Line[] = [
    ["Integrated loudness", level(found.integrated_lufs, "LUFS")],
    ["Loudness range", lu(found.lra_lu)],
    ["Loudest 3 s", level(found.max_short_term_lufs, "LUFS")],
    ["Loudest 0.4 s", level(found.max_momentary_lufs, "LUFS")],
    [
      "Sample peak",
      `${level(found.sample_peak_dbfs)} at ${clock(Math.round(found.sample_peak_at_s * mix.rate_hz), mix.rate_hz, 1)}`,
    ],
    ["True peak", level(found.true_peak_dbtp, "dBTP")],
    ["Clipped samples", found.clipped_samples.toLocaleString("en-GB")],
    ["Noise floor", level(found.noise_floor_dbfs)],
    ["Bits in use", found.effective_bits === null ? "lossy" : String(found.effective_bits)],
    ["Bandwidth in use", `${(found.effective_bandwidth_hz / 1000).toFixed(1)} kHz`],
  ];
  if (found.correlation !== null) lines.push(["Correlation", found.correlation.toFixed(2)]);
  if (found.balance_db !== null) lines.push(["Left over right", level(found.balance_db, "dB")]);
  lines.push(["DC offset", found.dc_offset.map((one) => `${(one * 100).toFixed(3)} %`).join(", ")]);
  return <Figures lines={lines} />;
}

/** What the chosen range measures, from what was kept of the mix. */
export function RangeFigures({ mix, range }: { mix: Mix; range: Range }) {
  const { data, error } = useRangeMeasures(mix.id, range);
  if (!data) return <p className="quiet">{error?.message ?? "Measuring"}</p>;
  return (
    <Figures
      lines={[
        ["Integrated loudness", level(data.integrated_lufs, "LUFS")],
        ["Loudness range", lu(data.lra_lu)],
        ["Peak", level(data.sample_peak_dbfs)],
        ["Level at the end", level(data.end_level_dbfs)],
      ]}
    />
  );
}
