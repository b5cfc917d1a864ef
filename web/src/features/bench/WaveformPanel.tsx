import {
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import type { Mix } from "../../api/client";
import type { Mode } from "../../app/theme";
import { clock } from "../../shared/format";
import { player, usePlayer } from "../../shared/player";
import { coloursOf, drawRuler, drawSilence, drawWave, prepare } from "../../shared/waveform/draw";
import {
  clampView,
  frameAt,
  reveal,
  type View,
  wholeView,
  xOf,
  zoomAt,
} from "../../shared/waveform/geometry";
import { sceneOf } from "../../shared/waveform/Thumbnail";
import { useTiles } from "../../shared/waveform/useTiles";
import { drawEdges, drawLoudness, LOUDEST_LUFS, QUIETEST_LUFS } from "./drawRange";
import { useKeys } from "./keys";
import { between, nudge, type Range } from "./model";
import { useLoudness } from "./queries";

const RULER_HEIGHT = 22;
const DRAG_PIXELS = 4;

interface WaveformPanelProps {
  mix: Mix;
  mode: Mode;
  range: Range;
  heardEnd: number;
  cursor: number;
  setRange: (range: Range) => void;
  setEdge: (edge: "start" | "end", frame: number) => void;
  setCursor: (frame: number) => void;
  children: ReactNode;
}

function useWidth() {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    if (!box.current) return;
    const observer = new ResizeObserver(([entry]) => entry && setWidth(Math.floor(entry.contentRect.width)));
    observer.observe(box.current);
    return () => observer.disconnect();
  }, []);
  return [box, width] as const;
}

export function WaveformPanel(props: WaveformPanelProps) {
  const { mix, mode, range, heardEnd, cursor, setRange, setEdge, setCursor } = props;
  const [box, width] = useWidth();
  const [wanted, setView] = useState<View | null>(null);
  const view = width ? clampView(wanted ?? wholeView(mix.frames, width), mix.frames, width) : null;
  const [tiles, version] = useTiles(mix);
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const wave = useRef<HTMLCanvasElement>(null);
  const overview = useRef<HTMLCanvasElement>(null);
  const shown = (drag && between(drag.from, drag.to, mix.frames)) ?? range;
  const loudness = useLoudness(mix.id).data;

  const zoom = (factor: number, x = width / 2) =>
    setView((last) => zoomAt(last ?? wholeView(mix.frames, width), factor, x, mix.frames, width));
  useKeys({ "+": () => zoom(0.5), "=": () => zoom(0.5), "-": () => zoom(2), "0": () => setView(null) });

  useEffect(() => {
    if (!view || !wave.current || !overview.current) return;
    const scene = sceneOf(mix, shown.start, shown.end);
    const colours = coloursOf(wave.current);
    const main = prepare(wave.current);
    const font = `12px ${getComputedStyle(wave.current).fontFamily}`;
    drawRuler(main.pen, main.width, RULER_HEIGHT, scene, view, colours, font, (frame, decimals) =>
      clock(frame, mix.rate_hz, decimals),
    );
    main.pen.translate(0, RULER_HEIGHT);
    drawSilence(main.pen, main.height - RULER_HEIGHT, scene, view, colours, main.width);
    drawWave(main.pen, main.width, main.height - RULER_HEIGHT, scene, view, tiles, colours);
    if (loudness)
      drawLoudness(main.pen, main.width, main.height - RULER_HEIGHT, scene, view, loudness, colours);
    if (!drag) drawEdges(main.pen, main.height - RULER_HEIGHT, scene.rateHz, view, range, heardEnd, colours);
    const small = prepare(overview.current);
    const whole = wholeView(mix.frames, small.width);
    drawSilence(small.pen, small.height, scene, whole, colours, small.width);
    drawWave(small.pen, small.width, small.height, scene, whole, tiles, colours);
  }, [
    mix,
    mode,
    tiles,
    version,
    width,
    view?.start,
    view?.framesPerPixel,
    shown.start,
    shown.end,
    range,
    heardEnd,
    loudness,
    drag,
  ]);

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
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    setDrag({ from: pointerFrame(event), to: pointerFrame(event) });
  };
  const onMove = (event: PointerEvent) => drag && setDrag({ ...drag, to: pointerFrame(event) });
  const onUp = (event: PointerEvent) => {
    if (!drag || !view) return;
    const to = pointerFrame(event);
    const dragged = Math.abs(to - drag.from) / view.framesPerPixel >= DRAG_PIXELS;
    const next = dragged && between(drag.from, to, mix.frames);
    setDrag(null);
    if (next) {
      setRange({ ...range, ...next });
      setCursor(next.start);
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
        {view && (
          <>
            {(["start", "end"] as const).map((edge) => (
              <Edge
                key={edge}
                edge={edge}
                mix={mix}
                view={view}
                width={width}
                frame={shown[edge]}
                onFrame={(frame) => setEdge(edge, frame)}
              />
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
      <div className="wave-foot">
        {props.children}
        {loudness && (
          <span className="loudness-key">
            loudness, −{-QUIETEST_LUFS} to {LOUDEST_LUFS} LUFS
          </span>
        )}
      </div>
    </section>
  );
}

function Line({
  view,
  width,
  frame,
  className,
}: {
  view: View;
  width: number;
  frame: number;
  className: string;
}) {
  const x = xOf(view, frame);
  return x < 0 || x > width ? null : <div className={className} style={{ left: x }} />;
}

function Playhead({ view, width, follow }: { view: View; width: number; follow: (frame: number) => void }) {
  const state = usePlayer();
  const [frame, setFrame] = useState<number | null>(null);
  const followed = useRef(follow);
  followed.current = follow;
  useEffect(() => {
    if (state.status !== "playing") return setFrame(null);
    let request = 0;
    const step = () => {
      const now = player.position();
      setFrame(now);
      if (now !== null) followed.current(now);
      request = requestAnimationFrame(step);
    };
    step();
    return () => cancelAnimationFrame(request);
  }, [state]);
  return frame === null ? null : <Line view={view} width={width} frame={frame} className="playhead" />;
}

interface EdgeProps {
  edge: "start" | "end";
  mix: Mix;
  view: View;
  width: number;
  frame: number;
  onFrame: (frame: number) => void;
}

/** An edge of the range: dragged, or nudged by the arrow keys while it has the focus. */
function Edge({ edge, mix, view, width, frame, onFrame }: EdgeProps) {
  const [dragged, setDragged] = useState<number | null>(null);
  const at = dragged ?? frame;
  const x = xOf(view, at);
  if (x < -1 || x > width + 1) return null;
  const frameUnder = (event: PointerEvent<HTMLElement>) => {
    const box = event.currentTarget.parentElement?.getBoundingClientRect();
    return box ? Math.min(mix.frames, Math.max(0, frameAt(view, event.clientX - box.left))) : at;
  };
  const onKey = (event: KeyboardEvent) => {
    const direction = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    if (!direction) return;
    event.preventDefault();
    onFrame(frame + direction * nudge(mix.rate_hz, event.shiftKey, event.altKey));
  };
  return (
    <div
      className={`edge edge-${edge}`}
      style={{ left: x }}
      role="slider"
      tabIndex={0}
      aria-label={edge === "start" ? "Start of the range" : "End of the range"}
      aria-valuemin={0}
      aria-valuemax={mix.frames}
      aria-valuenow={Math.round(at)}
      aria-valuetext={clock(Math.round(at), mix.rate_hz)}
      onKeyDown={onKey}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        setDragged(frameUnder(event));
      }}
      onPointerMove={(event) => dragged !== null && setDragged(frameUnder(event))}
      onPointerUp={(event) => {
        if (dragged === null) return;
        setDragged(null);
        onFrame(frameUnder(event));
      }}
    >
      <span className="edge-tab" />
      {dragged !== null && <span className="edge-time">{clock(Math.round(at), mix.rate_hz)}</span>}
    </div>
  );
}
