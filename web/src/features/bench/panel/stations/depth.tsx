import { Select } from "antd";
import type { Mix, NoiseFigures } from "../../../../api/client";
import { drawSpectra, Picture } from "../../../../shared/Picture";
import type { Mode } from "../../../../shared/theme";
import { DITHERS, depthsOf } from "../../ticket/deliveryOptions";
import { type FieldsProps, type StationUi, useChoices } from "./panel";

/** How many bits; the format's panel asks for it, too. */
export function DepthField(props: FieldsProps) {
  const { now, can, set, field } = useChoices(props);
  if (props.row.lossy) return null;
  return field("encoding", "Depth", (id) => (
    <Select
      id={id}
      size="small"
      value={now.encoding}
      options={depthsOf(can)}
      onChange={(encoding) => set({ encoding })}
    />
  ));
}

function DitherField(props: FieldsProps) {
  const { now, set, field } = useChoices(props);
  if (props.row.lossy || now.encoding.startsWith("f")) return null;
  return field("dither", "Dither", (id) => (
    <Select
      id={id}
      size="small"
      value={now.dither}
      options={DITHERS}
      onChange={(dither) => set({ dither })}
    />
  ));
}

const SPECTRUM_FRAMES = 8192;

/** The noise that making integers adds, over frequency, against the mean spectrum of the mix. */
function NoisePicture({ noise, mix, mode }: { noise: NoiseFigures; mix: Mix; mode: Mode }) {
  // A bin of the mix's spectrum holds the power of its width; a hertz of it is so much less.
  const perHz = 3.01 - 10 * Math.log10(mix.rate_hz / SPECTRUM_FRAMES);
  return (
    <>
      <Picture
        mode={mode}
        label="Spectrum of the mix and the added noise"
        draw={(canvas) =>
          drawSpectra(canvas, {
            curves: [
              { points: mix.measures.spectrum, colour: "wave", shift: () => perHz },
              { points: noise.density, colour: "over" },
            ],
            lastHz: noise.rate_hz / 2,
            topDb: -20,
            floorDb: -180,
            levels: [-20, -60, -100, -140, -180],
          })
        }
      />
      <p className="picture-key">
        <span className="key-wave">mix</span> <span className="key-over">added noise</span>
      </p>
    </>
  );
}

export const depth: StationUi = {
  title: "Depth",
  said: (row, station, can) =>
    station
      ? [`${station.label}, ${station.detail}`.replace(/, $/, ""), ""]
      : [
          row.lossy
            ? "floating point"
            : (can?.depths.find(([one]) => one === row.settled.encoding)?.[1] ?? ""),
          row.lossy ? "encoder input" : "no change",
        ],
  idle: "No word-length reduction, so no dither.",
  Panel: ({ mix, mode, ...about }) => (
    <>
      {about.row.noise && <NoisePicture noise={about.row.noise} mix={mix} mode={mode} />}
      <div className="delivery-controls">
        <DepthField {...about} />
        <DitherField {...about} />
      </div>
    </>
  ),
};
