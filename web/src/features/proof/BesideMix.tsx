import { useQuery } from "@tanstack/react-query";
import { api, type Mix } from "../../api/client";
import { drawSpectra } from "../../shared/Picture";
import { Figures } from "../../shared/text/Figures";
import { level } from "../../shared/text/format";
import type { Mode } from "../../shared/theme";
import { drawOverTime } from "./drawHeld";
import { Shown } from "./HeldPictures";

const DAY = 86_400_000;

/** A mix beside another that it is to stand next to: spectrum and loudness, both as loud as this one. */
export function BesideMix({ mix, otherId, mode }: { mix: Mix; otherId: number; mode: Mode }) {
  const other = useQuery({ queryKey: ["shelf", "mix", otherId], queryFn: () => api.mix(otherId) }).data;
  const spectrum = (id: number, frames: number) => ({
    queryKey: ["spectrum of all", id],
    queryFn: () => api.spectrum(id, 0, frames),
    staleTime: DAY,
  });
  const loudness = (id: number) => ({
    queryKey: ["loudness of all", id],
    queryFn: async () => Array.from(await api.loudness(id), (one) => (Number.isNaN(one) ? null : one)),
    staleTime: DAY,
  });
  const own = useQuery(spectrum(mix.id, mix.frames)).data;
  const theirs = useQuery({ ...spectrum(otherId, other?.frames ?? 1), enabled: other !== undefined }).data;
  const ownCurve = useQuery(loudness(mix.id)).data;
  const theirCurve = useQuery(loudness(otherId)).data;
  if (!other) return null;
  const louder = (other.measures.integrated_lufs ?? 0) - (mix.measures.integrated_lufs ?? 0);
  const said =
    Math.abs(louder) < 0.05
      ? "same loudness as this mix"
      : `${Math.abs(louder).toFixed(1)} LU ${louder > 0 ? "louder" : "quieter"} than this mix`;
  return (
    <article className="sheet file-proof" aria-label={`Compared with ${other.title}`}>
      <h2>Compared with {other.title}</h2>
      <p>
        {other.title}: {said}, {level(other.measures.integrated_lufs, "LUFS")} vs{" "}
        {level(mix.measures.integrated_lufs, "LUFS")}. Graphs are level-matched.
      </p>
      <div className="held-pictures">
        {own && theirs && (
          <Shown
            caption={
              <>
                Spectrum: <span className="of-file">this mix</span>,{" "}
                <span className="of-masked">{other.title}</span>
              </>
            }
            label={`Spectra of this mix and ${other.title}`}
            mode={mode}
            draw={(canvas) =>
              drawSpectra(canvas, {
                curves: [
                  { points: own, colour: "wave" },
                  { points: theirs, colour: "loudness", shift: () => -louder },
                ],
                lastHz: Math.min(mix.rate_hz, other.rate_hz) / 2,
                topDb: -20,
                floorDb: -140,
                levels: [-40, -80, -120],
              })
            }
          />
        )}
        {ownCurve && theirCurve && (
          <Shown
            caption={
              <>
                Loudness over time in LUFS: <span className="of-file">this mix</span>,{" "}
                <span className="of-masked">{other.title}</span>
              </>
            }
            label={`Loudness of this mix and ${other.title} over time`}
            mode={mode}
            draw={(canvas) =>
              drawOverTime(
                canvas,
                [
                  { values: ownCurve, colour: "wave" },
                  {
                    values: theirCurve.map((one) => (one === null ? null : one - louder)),
                    colour: "loudness",
                  },
                ],
                { top: 0, floor: -60, levels: [-10, -20, -30, -40, -50], unit: "" },
              )
            }
          />
        )}
      </div>
      <Figures
        wide
        lines={(
          [
            ["Loudness", mix.measures.integrated_lufs, other.measures.integrated_lufs, "LUFS"],
            ["Loudness range", mix.measures.lra_lu, other.measures.lra_lu, "LU"],
            ["True peak", mix.measures.true_peak_dbtp, other.measures.true_peak_dbtp, "dBTP"],
          ] as const
        ).map(([name, one, two, unit]) => [name, `${level(one, unit)}, ${other.title} ${level(two, unit)}`])}
      />
    </article>
  );
}
