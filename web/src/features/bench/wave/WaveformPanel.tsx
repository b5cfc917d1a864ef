import { type ReactNode, useEffect, useMemo } from "react";
import type { LevelTrial, Mix } from "../../../api/client";
import { useKeys } from "../../../shared/commands/keys";
import type { Mode } from "../../../shared/theme";
import { printPlace, snapped } from "../../../shared/time/timeUnits";
import { useTiles } from "../../../shared/waveform/useTiles";
import { withMarkers } from "../model";
import { useClipped, useLoudness, useTruePeaks } from "../queries";
import type { TimingControl } from "../range/useTiming";
import { useBench, useRange, useSession, useSetOut } from "../session";
import type { Listening } from "../sound/useListening";
import { LOUDEST_LUFS, QUIETEST_LUFS, stacked } from "./drawRange";
import { MarkerLane } from "./MarkerLane";
import { Overview } from "./Overview";
import { Edge, Line, Playhead } from "./overlays";
import { paintWave } from "./paintWave";
import { useRangeDrag } from "./useRangeDrag";
import { useView } from "./useView";
import { wordsOfWave } from "./wordsOfWave";

interface WaveformPanelProps {
  mix: Mix;
  mode: Mode;
  timing: TimingControl;
  decibels: boolean;
  heardEnd: number;
  reduction: LevelTrial | undefined;
  listening: Listening;
  children: ReactNode;
}

export function WaveformPanel(props: WaveformPanelProps) {
  const { mix, mode, decibels, heardEnd, reduction, listening } = props;
  const { timing, snapTo, setEdge } = props.timing;
  const session = useSession();
  const bench = useSetOut();
  const range = useRange();
  const cursor = useBench((view) => view.cursor);
  const look = useView(mix.frames, cursor);
  const { view, width, wave } = look;
  const tiles = useTiles(mix);
  const bands = useMemo(() => stacked(bench.ranges), [bench.ranges]);
  const { dragged, handlers } = useRangeDrag(mix, view, bands, snapTo, listening);
  const { start_frame: start, end_frame: end } = dragged ?? range;
  const loudness = useLoudness(mix).data;
  const truePeaks = useTruePeaks(mix).data;
  const clipped = useClipped(mix).data;
  const print = (frame: number) => printPlace(frame, timing.unit, mix.rate_hz, timing.bars);
  const snap = (frame: number, free: boolean) => (free ? frame : snapped(frame, snapTo));
  const show = (frame: number) => {
    session.setCursor(frame);
    look.follow(frame);
  };
  const step = (direction: 1 | -1) => {
    const places = bench.markers.map((marker) => marker.frame);
    const next =
      direction > 0 ? places.find((one) => one > cursor) : places.filter((one) => one < cursor).at(-1);
    if (next !== undefined) show(next);
  };
  useKeys({
    "+": () => look.zoom(0.5),
    "=": () => look.zoom(0.5),
    "-": () => look.zoom(2),
    "0": look.whole,
    ",": () => step(-1),
    ".": () => step(1),
  });
  useEffect(() => {
    if (!view || !wave.current) return;
    paintWave(wave.current, {
      mix,
      view,
      tiles: tiles[0],
      timing,
      decibels,
      shown: { start_frame: start, end_frame: end },
      dragging: dragged !== null,
      range,
      bands,
      severalRanges: bench.ranges.length > 1,
      heardEnd,
      loudness,
      truePeaks,
      clipped,
      reduction,
    });
  }, [
    mix,
    mode,
    ...tiles,
    width,
    look.height,
    view?.start,
    view?.framesPerPixel,
    start,
    end,
    range,
    bands,
    heardEnd,
    loudness,
    truePeaks,
    clipped,
    reduction,
    decibels,
    timing,
    dragged !== null,
  ]);
  const words = wordsOfWave(mix, range);
  return (
    <section className="sheet waveform" aria-label="Waveform">
      <div className="wave-top">{props.children}</div>
      <Overview mix={mix} mode={mode} look={look} tiles={tiles} start={start} end={end} decibels={decibels} />
      <div className="wave-box" ref={look.box}>
        <canvas
          ref={wave}
          className="wave"
          role="img"
          aria-label={words}
          data-testid="wave"
          data-frames-per-pixel={view?.framesPerPixel}
          {...handlers}
        />
        {loudness && (
          <span className="loudness-key">
            loudness, −{-QUIETEST_LUFS} to {LOUDEST_LUFS} LUFS
          </span>
        )}
        {view && (
          <>
            {(["start", "end"] as const).map((edge) => (
              <Edge
                key={edge}
                edge={edge}
                mix={mix}
                view={view}
                width={width}
                frame={edge === "start" ? start : end}
                print={print}
                snap={snap}
                onFrame={(frame, free) => setEdge(edge, frame, free)}
              />
            ))}
            {bench.markers.map((marker, index) => (
              <Line key={index} view={view} width={width} frame={marker.frame} className="marker-line" />
            ))}
            <Line view={view} width={width} frame={cursor} className="cursor" />
            <Playhead view={view} width={width} follow={look.follow} />
          </>
        )}
      </div>
      {view && bench.markers.length > 0 && (
        <MarkerLane
          mix={mix}
          markers={bench.markers}
          view={view}
          width={width}
          snap={snap}
          move={(index, frame) =>
            session.edit((now) =>
              withMarkers(
                now,
                now.markers.map((one, at) => (at === index ? { ...one, frame } : one)),
              ),
            )
          }
          remove={(index) =>
            session.edit((now) =>
              withMarkers(
                now,
                now.markers.filter((_, at) => at !== index),
              ),
            )
          }
          show={show}
        />
      )}
    </section>
  );
}
