import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import {
  api,
  type Converter,
  type ConverterWish,
  type Mix,
  type NoiseFigures,
  type Row,
} from "../../api/client";
import type { Mode } from "../../app/theme";
import { level } from "../../shared/format";
import { coloursOf, prepare } from "../../shared/waveform/draw";
import { EdgeControls } from "./EdgeControls";
import { MixFigures, RangeFigures } from "./MeasureFigures";
import { type Range, remedied } from "./model";
import { levelGrid, Picture } from "./Picture";
import { DownmixChoice, InTheFile } from "./SourceFile";

const TITLES: Record<string, string> = {
  source: "the mix",
  range: "range",
  rate: "rate",
  channels: "channels",
  depth: "depth",
  codec: "container",
  name: "file",
};

interface StationPanelProps {
  mix: Mix;
  row: Row;
  kind: string;
  mode: Mode;
  range: Range;
  setRange: (range: Range) => void;
}

export function StationPanel({ mix, row, kind, mode, range, setRange }: StationPanelProps) {
  const station = row.stations.find((one) => one.kind === kind) ?? row.stations.at(-1);
  if (!station) return null;
  return (
    <>
      <p className="panel-where">
        {row.brief_title} · {TITLES[station.kind]}
      </p>
      <h2>{station.kind === "source" ? "What comes in" : station.label}</h2>
      <p>{station.sentence}</p>
      {station.kind === "rate" && row.converter && <ConverterPicture wish={row.converter} mode={mode} />}
      {station.kind === "depth" && row.noise && <NoisePicture noise={row.noise} mode={mode} />}
      {station.kind === "range" && <EdgeControls range={range} setRange={setRange} />}
      {station.kind === "range" && <RangeFigures mix={mix} range={range} mode={mode} />}
      {station.kind === "source" && mix.file_channels > 2 && <DownmixChoice mix={mix} />}
      {station.kind === "source" && <MixFigures mix={mix} mode={mode} />}
      {station.kind === "source" && <InTheFile mix={mix} />}
      {station.figures.length > 0 && (
        <dl className="panel-figures">
          {station.figures.map((figure) => (
            <div key={figure.name}>
              <dt>{figure.name}</dt>
              <dd>{figure.value}</dd>
            </div>
          ))}
        </dl>
      )}
      {station.kind === "name" && row.findings.length > 0 && (
        <ul className="panel-findings">
          {row.findings.map((finding) => (
            <li key={finding.rule}>
              {finding.sentence}{" "}
              {finding.remedy && (
                <Button
                  size="small"
                  onClick={() => finding.remedy && setRange(remedied(range, finding.remedy))}
                >
                  {finding.remedy.label}
                </Button>
              )}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

const FLOOR_DB = -200;

function ConverterPicture({ wish, mode }: { wish: ConverterWish; mode: Mode }) {
  const converter = useQuery({
    queryKey: ["converter", wish],
    queryFn: () => api.converter(wish),
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!converter.data)
    return <p className="quiet">{converter.error?.message ?? "Measuring the converter"}</p>;
  const figures = converter.data;
  return (
    <>
      <Picture
        mode={mode}
        label="Response of the converter over frequency"
        draw={(canvas) => drawConverter(canvas, figures)}
      />
      <dl className="panel-figures">
        <div>
          <dt>Ripple to {figures.flat_to_hz / 1000} kHz</dt>
          <dd>±{figures.ripple_db.toFixed(4)} dB</dd>
        </div>
        <div>
          <dt>Begins to close (−0.1 dB)</dt>
          <dd>{(figures.edge_hz / 1000).toFixed(2)} kHz</dd>
        </div>
        <div>
          <dt>Left above half the rate</dt>
          <dd>{level(figures.rejection_db, "dB")}</dd>
        </div>
      </dl>
    </>
  );
}

function drawConverter(canvas: HTMLCanvasElement, converter: Converter): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const top = converter.curve.at(-1)?.hz ?? 1;
  const room = height - 18;
  const yOf = (db: number) => 16 + (Math.max(FLOOR_DB, Math.min(0, db)) / FLOOR_DB) * (room - 18);
  levelGrid(pen, canvas, width, [0, -60, -120, -180], yOf, colours.rule, colours.quiet);
  pen.strokeStyle = colours.wave;
  pen.lineWidth = 1.6;
  pen.beginPath();
  for (const point of converter.curve) pen.lineTo((point.hz / top) * width, yOf(point.db));
  pen.stroke();
  pen.fillStyle = colours.quiet;
  for (let khz = 10; khz * 1000 < top; khz += 10)
    pen.fillText(`${khz} k`, (khz * 1000 * width) / top - 8, height - 5);
}

/** Levels against each other: full scale at the top, the quietest half second, the dither's noise below it. */
function NoisePicture({ noise, mode }: { noise: NoiseFigures; mode: Mode }) {
  return (
    <Picture
      mode={mode}
      label="The dither noise against the quietest half second"
      draw={(canvas) => drawNoise(canvas, noise)}
    />
  );
}

function drawNoise(canvas: HTMLCanvasElement, noise: NoiseFigures): void {
  const { pen, width, height } = prepare(canvas);
  const colours = coloursOf(canvas);
  const floor = Math.min(-120, Math.floor((noise.dither_noise_dbfs - 12) / 30) * 30);
  const xOf = (db: number) => ((Math.max(floor, Math.min(0, db)) - floor) / -floor) * (width - 12) + 6;
  pen.font = `11px ${getComputedStyle(canvas).fontFamily}`;
  for (let db = floor; db <= 0; db += 30) {
    pen.fillStyle = colours.rule;
    pen.fillRect(Math.round(xOf(db)), 0, 1, height - 16);
    pen.fillStyle = colours.quiet;
    pen.textAlign = db === 0 ? "right" : db === floor ? "left" : "center";
    pen.fillText(db === 0 ? "0 dBFS" : `−${-db}`, xOf(db), height - 4);
  }
  pen.textAlign = "left";
  pen.font = `12px ${getComputedStyle(canvas).fontFamily}`;
  const bars: [string, number | null, string][] = [
    ["Quietest half second", noise.quietest_dbfs, colours.wave],
    [`${noise.dither} dither, ${noise.bits} bits`, noise.dither_noise_dbfs, colours.over],
  ];
  bars.forEach(([name, db, colour], index) => {
    const y = 8 + index * 44;
    pen.fillStyle = colour;
    pen.fillText(db === null ? `${name}: silence` : name, 10, y + 10);
    pen.fillRect(6, y + 17, db === null ? 2 : xOf(db) - 6, 12);
  });
}
