import { useEffect, useRef } from "react";
import type { Mix } from "../../api/client";
import { coloursOf, drawSilence, drawWave, prepare, type Scene } from "./draw";
import { wholeView } from "./geometry";
import { useTiles } from "./useTiles";

export function sceneOf(mix: Mix, start = 0, end = mix.frames): Scene {
  const { head_silence_frames: head, tail_silence_frames: tail } = mix.measures;
  return {
    frames: mix.frames,
    channels: mix.channels,
    rateHz: mix.rate_hz,
    sounding: [head, Math.max(head, mix.frames - tail)],
    range: [start, end],
  };
}

/** The whole mix, small, still. */
export function Thumbnail({ mix }: { mix: Mix }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [tiles, version] = useTiles(mix);
  useEffect(() => {
    if (!canvas.current) return;
    const { pen, width, height } = prepare(canvas.current);
    const colours = coloursOf(canvas.current);
    const view = wholeView(mix.frames, width);
    const [range] = mix.bench.ranges;
    const scene = sceneOf(mix, range?.start_frame, range?.end_frame);
    drawSilence(pen, height, scene, view, colours, width);
    drawWave(pen, width, height, scene, view, tiles, colours);
  }, [mix, tiles, version]);
  return <canvas ref={canvas} className="thumbnail" role="img" aria-label={`Waveform of ${mix.title}`} />;
}
