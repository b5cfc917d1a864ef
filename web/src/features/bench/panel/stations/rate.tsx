import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { api, type Converter, type ConverterRequest } from "../../../../api/client";
import { GUTTER, levelGrid, Picture } from "../../../../shared/Picture";
import { Figures } from "../../../../shared/text/Figures";
import { level } from "../../../../shared/text/format";
import type { Mode } from "../../../../shared/theme";
import { coloursOf, prepare } from "../../../../shared/waveform/draw";
import { ratesOf } from "../../ticket/deliveryOptions";
import { type FieldsProps, ownWords, type StationUi, useChoices } from "./panel";

const QUALITIES = [
  { value: "very-high" as const, label: "Very high" },
  { value: "high" as const, label: "High" },
];

function Fields(props: FieldsProps) {
  const { now, can, set, field } = useChoices(props);
  return (
    <>
      {field("rate_hz", "Rate", (id) => (
        <Select<number | "keep">
          id={id}
          size="small"
          value={props.line.changes.rate_hz === "keep" ? "keep" : now.rate_hz}
          options={[{ value: "keep", label: "Same as mix" }, ...ratesOf(can)]}
          onChange={(rate_hz) => set({ rate_hz })}
        />
      ))}
      {field("quality", "Quality", (id) => (
        <Select
          id={id}
          size="small"
          value={now.quality}
          options={QUALITIES}
          onChange={(quality) => set({ quality })}
        />
      ))}
    </>
  );
}

function ConverterPicture({ wish, mode }: { wish: ConverterRequest; mode: Mode }) {
  const converter = useQuery({
    queryKey: ["converter", wish],
    queryFn: () => api.converter(wish),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!converter.data) return <p className="quiet">{converter.error?.message ?? "Measuring the filter"}</p>;
  const figures = converter.data;
  return (
    <>
      <Picture
        mode={mode}
        label="Frequency response of the rate conversion"
        draw={(canvas) => drawConverter(canvas, figures)}
      />
      <Figures
        lines={[
          [`Ripple to ${figures.flat_to_hz / 1000} kHz`, `±${figures.ripple_db.toFixed(4)} dB`],
          ["Passband edge (−0.1 dB)", `${(figures.edge_hz / 1000).toFixed(2)} kHz`],
          ["Residual above Nyquist", level(figures.rejection_db, "dB")],
        ]}
      />
    </>
  );
}

const FLOOR_DB = -200;

function drawConverter(canvas: HTMLCanvasElement, converter: Converter): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const top = converter.curve.at(-1)?.hz ?? 1;
  const plot = width - GUTTER;
  const room = height - 18;
  const yOf = (db: number) => 16 + (Math.max(FLOOR_DB, Math.min(0, db)) / FLOOR_DB) * (room - 18);
  levelGrid(pen, canvas, width, [0, -60, -120, -180], yOf, colours.rule, colours.quiet);
  pen.strokeStyle = colours.wave;
  pen.lineWidth = 1.6;
  pen.beginPath();
  for (const point of converter.curve) pen.lineTo((point.hz / top) * plot, yOf(point.db));
  pen.stroke();
  pen.fillStyle = colours.quiet;
  for (let khz = 10; khz * 1000 < top; khz += 10)
    pen.fillText(`${khz} k`, (khz * 1000 * plot) / top - 8, height - 5);
}

export const rate: StationUi = {
  title: "Rate",
  said: ownWords,
  Panel: ({ mode, ...about }) => (
    <>
      {about.row.converter && <ConverterPicture wish={about.row.converter} mode={mode} />}
      <div className="delivery-controls">
        <Fields {...about} />
      </div>
    </>
  ),
};
