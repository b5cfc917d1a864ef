import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import type { ReactNode } from "react";
import {
  api,
  type BenchState,
  type Converter,
  type ConverterWish,
  type FinishChain,
  type LevelTrial,
  type Mix,
  type NoiseFigures,
  type Remedy,
  type Row,
  type TicketLine,
} from "../../api/client";
import type { Mode } from "../../app/theme";
import { Figures } from "../../shared/Figures";
import { level } from "../../shared/format";
import { coloursOf, prepare } from "../../shared/waveform/draw";
import { CodecPicture } from "./CodecPicture";
import { DeliveryControls } from "./DeliveryControls";
import { EdgeControls } from "./EdgeControls";
import { FinishControls } from "./FinishControls";
import { MixFigures, RangeFigures } from "./MeasureFigures";
import { type Range, withRemedy } from "./model";
import { NameControls } from "./NameControls";
import { drawSpectra, GUTTER, levelGrid, Picture } from "./Picture";
import type { CodecTrial } from "./queries";
import { DownmixChoice, InTheFile } from "./SourceFile";
import { ChannelsPicture, FinishPicture, LevelPicture } from "./StationPictures";
import { TagPanel } from "./TagPanel";

const TITLES: Record<string, string> = {
  source: "the mix",
  range: "range",
  finish: "finish",
  rate: "rate",
  level: "level",
  channels: "channels",
  depth: "depth",
  codec: "format",
  tags: "tags",
  name: "file",
};

interface StationPanelProps {
  mix: Mix;
  row: Row;
  kind: string;
  mode: Mode;
  range: Range;
  setRange: (range: Range) => void;
  bench: BenchState;
  setLine: (line: TicketLine) => void;
  setFinish: (finish: FinishChain) => void;
  setBench: (bench: BenchState) => void;
  codecTrial: CodecTrial;
  /** The field of the tag sheet that a finding leads to. */
  wantedField: string | null;
  goToField: (field: string) => void;
  trial: Trial;
  tryLevel: () => void;
}

interface Trial {
  readonly result: LevelTrial | undefined;
  readonly running: boolean;
  readonly error: string | undefined;
}

export function StationPanel(props: StationPanelProps) {
  const { mix, row, kind, mode, range, setRange, bench, setLine } = props;
  const line = bench.ticket.find((one) => one.id === row.line_id);
  const station = row.stations.find((one) => one.kind === kind) ?? row.stations.at(-1);
  if (!station) return null;
  const acts = {
    remedy: (remedy: Remedy) => props.setBench(withRemedy(bench, row, remedy)),
    goToField: props.goToField,
  };
  return (
    <>
      <p className="panel-where">
        {row.brief_title} · {TITLES[station.kind]}
      </p>
      <h2>{station.kind === "source" ? "What comes in" : station.label}</h2>
      <p>{station.sentence}</p>
      {station.kind === "rate" && row.converter && <ConverterPicture wish={row.converter} mode={mode} />}
      {station.kind === "depth" && row.noise && <NoisePicture noise={row.noise} mix={mix} mode={mode} />}
      {station.kind === "source" && mix.file_channels > 2 && <DownmixChoice mix={mix} />}
      {(station.kind === "source" || station.kind === "finish") && (
        <FinishControls mix={mix} finish={bench.finish} setFinish={props.setFinish} />
      )}
      {line && station.kind === "name" && (
        <NameControls key={line.id} mix={mix} bench={bench} row={row} line={line} setBench={props.setBench} />
      )}
      {line && <DeliveryControls row={row} line={line} kind={station.kind} setLine={setLine} />}
      {line && station.kind === "tags" && (
        <TagPanel
          mix={mix}
          bench={bench}
          row={row}
          line={line}
          wanted={props.wantedField}
          setBench={props.setBench}
        />
      )}
      {station.kind === "codec" && <CodecPicture row={row} trial={props.codecTrial} mode={mode} />}
      {station.kind === "finish" && <FinishPicture mix={mix} finish={bench.finish} mode={mode} />}
      {station.kind === "channels" && <ChannelsPicture mix={mix} mode={mode} />}
      {station.kind === "level" && <LevelPicture row={row} mode={mode} />}
      {station.kind === "level" && (
        <LevelTrialFigures trial={props.trial} tryLevel={props.tryLevel}>
          <PanelFindings shown={row.findings.filter((one) => one.rule === OUT_OF_REACH)} {...acts} />
        </LevelTrialFigures>
      )}
      {station.kind === "range" && <EdgeControls range={range} setRange={setRange} />}
      {station.kind === "range" && <RangeFigures mix={mix} range={range} mode={mode} />}
      {station.kind === "source" && <MixFigures mix={mix} mode={mode} />}
      {station.kind === "source" && <InTheFile mix={mix} />}
      {station.figures.length > 0 && (
        <Figures lines={station.figures.map((figure) => [figure.name, figure.value] as const)} />
      )}
      {station.kind === "name" && (
        <Figures
          lines={[
            ["Forecast size", row.size.words],
            ["Forecast peak", level(row.forecast.sample_peak_dbfs)],
          ]}
        />
      )}
      {station.kind === "name" && <PanelFindings shown={row.findings} {...acts} />}
    </>
  );
}

/** The finding that belongs beside the level's own figures. */
const OUT_OF_REACH = "loudness_out_of_reach";

function PanelFindings(props: {
  shown: Row["findings"];
  remedy: (remedy: Remedy) => void;
  goToField: (field: string) => void;
}) {
  if (!props.shown.length) return null;
  return (
    <ul className="panel-findings">
      {props.shown.map(({ rule, sentence, field, remedy }) => (
        <li key={rule}>
          {sentence}{" "}
          {field && (
            <Button size="small" onClick={() => props.goToField(field)}>
              Go to the field
            </Button>
          )}
          {remedy && (
            <Button size="small" onClick={() => props.remedy(remedy)}>
              {remedy.label}
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}

function LevelTrialFigures({
  trial,
  tryLevel,
  children,
}: {
  trial: Trial;
  tryLevel: () => void;
  children: ReactNode;
}) {
  const found = trial.result;
  return (
    <>
      <Button size="small" loading={trial.running} onClick={tryLevel}>
        Measure it as it will be pressed
      </Button>
      {trial.error && (
        <p className="field-error" role="alert">
          {trial.error}
        </p>
      )}
      {children}
      {found && (
        <Figures
          lines={[
            ["Gain", level(found.gain_db, "dB")],
            ["Loudness after", level(found.integrated_lufs, "LUFS")],
            ["True peak after", level(found.true_peak_dbtp, "dBTP")],
            ["Most gain reduction", level(Math.min(0, ...found.reduction_db), "dB")],
          ]}
        />
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
      <Figures
        lines={[
          [`Ripple to ${figures.flat_to_hz / 1000} kHz`, `±${figures.ripple_db.toFixed(4)} dB`],
          ["Begins to close (−0.1 dB)", `${(figures.edge_hz / 1000).toFixed(2)} kHz`],
          ["Left above half the rate", level(figures.rejection_db, "dB")],
        ]}
      />
    </>
  );
}

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

const SPECTRUM_FRAMES = 8192;

/** The noise that making integers adds, over frequency, against the mean spectrum of the mix. */
function NoisePicture({ noise, mix, mode }: { noise: NoiseFigures; mix: Mix; mode: Mode }) {
  // A bin of the mix's spectrum holds the power of its width; a hertz of it is so much less.
  const perHz = 3.01 - 10 * Math.log10(mix.rate_hz / SPECTRUM_FRAMES);
  return (
    <>
      <Picture
        mode={mode}
        label="Spectrum of the added noise against that of the mix"
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
        <span className="key-wave">the mix</span> <span className="key-over">what is added</span>
      </p>
    </>
  );
}
