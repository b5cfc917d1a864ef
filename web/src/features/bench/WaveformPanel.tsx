import {
  type PointerEvent,
  type ReactNode,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import type { BenchState, LevelTrial, Mix } from "../../api/client";
import type { Mode } from "../../app/theme";
import { printPlace, type SnapTo, snapped } from "../../shared/timeUnits";
import { coloursOf, drawRuler, drawSilence, drawWave, prepare } from "../../shared/waveform/draw";
import { clampView, frameAt, reveal, type View, wholeView, zoomAt } from "../../shared/waveform/geometry";
import { sceneOf } from "../../shared/waveform/Thumbnail";
import { useTiles } from "../../shared/waveform/useTiles";
import {
  bandAt,
  bandsHeight,
  drawBands,
  drawClipped,
  drawEdges,
  drawLoudness,
  drawReduction,
  drawTruePeaks,
  LOUDEST_LUFS,
  QUIETEST_LUFS,
  stacked,
} from "./drawRange";
import { useKeys } from "./keys";
import { MarkerLane } from "./MarkerLane";
import { between, type Range } from "./model";
import { Edge, Line, Playhead } from "./overlays";
import { useClipped, useLoudness, useTruePeaks } from "./queries";
import { rulerTicks } from "./ruler";
import type { Timing } from "./TimeField";

const RULER_HEIGHT = 22;
const DRAG_PIXELS = 4;

interface WaveformPanelProps {
  mix: Mix;
  mode: Mode;
  bench: BenchState;
  range: Range;
  timing: Timing;
  snapTo: SnapTo;
  decibels: boolean;
  heardEnd: number;
  cursor: number;
  reduction: LevelTrial | undefined;
  tabs: ReactNode;
  choose: (id: string) => void;
  setRange: (range: Range) => void;
  setEdge: (edge: "start" | "end", frame: number, free: boolean) => void;
  addRange: (start: number, end: number) => void;
  setCursor: (frame: number) => void;
  moveMarker: (index: number, frame: number) => void;
  removeMarker: (index: number) => void;
  children: ReactNode;
}

function useSize() {
  const box = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    if (!box.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry?.contentRect ?? { width: 0, height: 0 };
      setSize({ width: Math.floor(width), height: Math.floor(height) });
    });
    observer.observe(box.current);
    return () => observer.disconnect();
  }, []);
  return [box, size] as const;
}

export function WaveformPanel(props: WaveformPanelProps) {
  const { mix, mode, bench, range, timing, snapTo, decibels, heardEnd, cursor, reduction } = props;
  const { setRange, setEdge, setCursor } = props;
  const [box, { width, height: boxHeight }] = useSize();
  const [wanted, setView] = useState<View | null>(null);
  const view = width ? clampView(wanted ?? wholeView(mix.frames, width), mix.frames, width) : null;
  const [tiles, version] = useTiles(mix);
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const wave = useRef<HTMLCanvasElement>(null);
  const overview = useRef<HTMLCanvasElement>(null);
  const shown = (drag && between(drag.from, drag.to, mix.frames)) ?? range;
  const { start_frame: start, end_frame: end } = shown;
  const loudness = useLoudness(mix).data;
  const truePeaks = useTruePeaks(mix).data;
  const clipped = useClipped(mix).data;
  const bands = useMemo(() => stacked(bench.ranges), [bench.ranges]);
  const print = (frame: number) => printPlace(frame, timing.unit, mix.rate_hz, timing.bars);
  const snap = (frame: number, free: boolean) => (free ? frame : snapped(frame, snapTo));

  // The cursor never leaves what is seen when it is moved by key.
  useEffect(() => {
    if (width) setView((last) => last && reveal(last, cursor, mix.frames, width));
  }, [cursor, mix.frames, width]);

  const zoom = (factor: number, x = width / 2) =>
    setView((last) => zoomAt(last ?? wholeView(mix.frames, width), factor, x, mix.frames, width));
  const look = (frame: number) => {
    setCursor(frame);
    setView((last) => last && reveal(last, frame, mix.frames, width));
  };
  const step = (direction: 1 | -1) => {
    const places = bench.markers.map((marker) => marker.frame);
    const next =
      direction > 0
        ? places.find((frame) => frame > cursor)
        : places.filter((frame) => frame < cursor).at(-1);
    if (next !== undefined) look(next);
  };
  useKeys({
    "+": () => zoom(0.5),
    "=": () => zoom(0.5),
    "-": () => zoom(2),
    "0": () => setView(null),
    ",": () => step(-1),
    ".": () => step(1),
  });

  useEffect(() => {
    if (!view || !wave.current) return;
    const scene = { ...sceneOf(mix, start, end), decibels };
    const colours = coloursOf(wave.current);
    const main = prepare(wave.current);
    const height = main.height - RULER_HEIGHT;
    const font = `12px ${getComputedStyle(wave.current).fontFamily}`;
    const ticks = rulerTicks(timing.unit, view, main.width, mix.rate_hz, timing.bars);
    drawRuler(main.pen, main.width, RULER_HEIGHT, view, colours, font, ticks);
    main.pen.translate(0, RULER_HEIGHT);
    drawSilence(main.pen, height, scene, view, colours, main.width);
    drawWave(main.pen, main.width, height, scene, view, tiles, colours);
    if (loudness) drawLoudness(main.pen, main.width, height, scene, view, loudness, colours);
    const below = bench.ranges.length > 1 ? bandsHeight(bands) : 0;
    if (clipped) drawClipped(main.pen, main.width, height, mix.channels, view, clipped, colours);
    if (truePeaks) drawTruePeaks(main.pen, main.width, below, view, truePeaks, colours);
    if (reduction) drawReduction(main.pen, main.width, view, reduction, colours);
    if (!drag) drawEdges(main.pen, height, scene.rateHz, view, range, heardEnd, colours);
    if (bench.ranges.length > 1) drawBands(main.pen, wave.current, main.width, view, bands, range.id);
  }, [
    mix,
    mode,
    tiles,
    version,
    width,
    boxHeight,
    view?.start,
    view?.framesPerPixel,
    start,
    end,
    range,
    bands,
    bench.ranges.length,
    heardEnd,
    loudness,
    truePeaks,
    clipped,
    reduction,
    decibels,
    timing.unit,
    timing.bars,
    drag,
  ]);

  // Apart from the waveform, because it stays as it is while that is zoomed and moved.
  useEffect(() => {
    if (!overview.current || !width) return;
    const small = prepare(overview.current);
    const colours = coloursOf(overview.current);
    const scene = { ...sceneOf(mix, start, end), decibels };
    const whole = wholeView(mix.frames, small.width);
    drawSilence(small.pen, small.height, scene, whole, colours, small.width);
    drawWave(small.pen, small.width, small.height, scene, whole, tiles, colours);
  }, [mix, mode, tiles, version, width, start, end, decibels]);

  // The wheel has to be listened to by hand: only so may it keep the page from scrolling.
  useEffect(() => {
    const canvas = wave.current;
    if (!canvas) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const sideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
      const amount = event.deltaX || event.deltaY;
      setView((last) => {
        const current = last ?? wholeView(mix.frames, width);
        return sideways
          ? clampView(
              { ...current, start: current.start + amount * current.framesPerPixel },
              mix.frames,
              width,
            )
          : zoomAt(current, 1.0015 ** event.deltaY, event.offsetX, mix.frames, width);
      });
    };
    canvas.addEventListener("wheel", onWheel, { passive: false });
    return () => canvas.removeEventListener("wheel", onWheel);
  }, [mix.frames, width]);

  const pointerFrame = (event: PointerEvent) =>
    view ? Math.min(mix.frames, Math.max(0, frameAt(view, event.nativeEvent.offsetX))) : 0;
  const onDown = (event: PointerEvent<HTMLCanvasElement>) => {
    if (event.button !== 0 || !view) return;
    if (bench.ranges.length > 1) {
      const { offsetX, offsetY } = event.nativeEvent;
      const hit = bandAt(bands, view, offsetX, offsetY - RULER_HEIGHT);
      if (hit) return props.choose(hit);
    }
    event.currentTarget.setPointerCapture(event.pointerId);
    const at = snap(pointerFrame(event), event.altKey);
    setDrag({ from: at, to: at });
  };
  const onMove = (event: PointerEvent) =>
    drag && setDrag({ ...drag, to: snap(pointerFrame(event), event.altKey) });
  const onUp = (event: PointerEvent) => {
    if (!drag || !view) return;
    const to = snap(pointerFrame(event), event.altKey);
    const dragged = Math.abs(to - drag.from) / view.framesPerPixel >= DRAG_PIXELS;
    const next = dragged && between(drag.from, to, mix.frames);
    setDrag(null);
    if (next) {
      if (event.shiftKey) props.addRange(next.start_frame, next.end_frame);
      else setRange({ ...range, ...next });
      setCursor(next.start_frame);
    } else setCursor(Math.round(drag.from));
  };
  const showAt = (event: PointerEvent<HTMLDivElement>) => {
    if (!view || !(event.buttons & 1)) return;
    const left = event.currentTarget.getBoundingClientRect().left;
    const middle = ((event.clientX - left) / width) * mix.frames;
    setView(clampView({ ...view, start: middle - (width / 2) * view.framesPerPixel }, mix.frames, width));
  };

  return (
    <section className="sheet waveform" aria-label="Waveform">
      <div className="overview" onPointerDown={showAt} onPointerMove={showAt}>
        <canvas ref={overview} role="img" aria-label="The whole mix" />
        {view && (
          <div
            className="window"
            style={{
              left: (view.start / mix.frames) * width,
              width: ((view.framesPerPixel * width) / mix.frames) * width,
            }}
          />
        )}
      </div>
      <div className="wave-box" ref={box}>
        <canvas
          ref={wave}
          className="wave"
          role="img"
          aria-label={`Waveform of ${mix.title}`}
          data-testid="wave"
          data-frames-per-pixel={view?.framesPerPixel}
          onPointerDown={onDown}
          onPointerMove={onMove}
          onPointerUp={onUp}
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
            <Playhead
              view={view}
              width={width}
              follow={(frame) => setView((last) => last && reveal(last, frame, mix.frames, width))}
            />
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
          move={props.moveMarker}
          remove={props.removeMarker}
          show={look}
        />
      )}
      <div className="wave-foot">{props.tabs}</div>
      <div className="wave-foot">{props.children}</div>
    </section>
  );
}
