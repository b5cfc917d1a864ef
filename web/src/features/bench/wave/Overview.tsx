import { type PointerEvent, useEffect, useRef } from "react";
import type { Mix } from "../../../api/client";
import type { Mode } from "../../../shared/theme";
import { coloursOf, drawSilence, drawWave, prepare, sceneOf } from "../../../shared/waveform/draw";
import { clampView, wholeView } from "../../../shared/waveform/geometry";
import type { useTiles } from "../../../shared/waveform/useTiles";
import type { ViewControl } from "./useView";

interface OverviewProps {
  mix: Mix;
  mode: Mode;
  look: ViewControl;
  tiles: ReturnType<typeof useTiles>;
  start: number;
  end: number;
  decibels: boolean;
}

/** The whole mix, and which part of it is seen; it stays as it is while the waveform is zoomed and moved. */
export function Overview({ mix, mode, look, tiles, start, end, decibels }: OverviewProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [loaded, version] = tiles;
  const { view, width, setView } = look;
  useEffect(() => {
    if (!canvas.current || !width) return;
    const small = prepare(canvas.current);
    const colours = coloursOf(canvas.current);
    const scene = { ...sceneOf(mix, mix.measures, start, end), decibels };
    const whole = wholeView(mix.frames, small.width);
    drawSilence(small.pen, small.height, scene, whole, colours, small.width);
    drawWave(small.pen, small.width, small.height, scene, whole, loaded, colours);
  }, [mix, mode, loaded, version, width, start, end, decibels]);
  const showAt = (event: PointerEvent<HTMLDivElement>) => {
    if (!view || !(event.buttons & 1)) return;
    const left = event.currentTarget.getBoundingClientRect().left;
    const middle = ((event.clientX - left) / width) * mix.frames;
    setView(clampView({ ...view, start: middle - (width / 2) * view.framesPerPixel }, mix.frames, width));
  };
  return (
    <div className="overview" onPointerDown={showAt} onPointerMove={showAt}>
      <canvas ref={canvas} role="img" aria-label="Overview of the mix" />
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
  );
}
