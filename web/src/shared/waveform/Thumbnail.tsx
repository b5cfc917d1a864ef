import { useEffect, useRef } from "react";
import type { ShelfMix } from "../../api/client";
import { coloursOf, drawSilence, drawWave, prepare, sceneOf } from "./draw";
import { wholeView } from "./geometry";
import { inTurn } from "./inTurn";
import { useTiles } from "./useTiles";

/** The whole mix, small, still. */
export function Thumbnail({ mix }: { mix: ShelfMix }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [tiles, version] = useTiles(mix);
  useEffect(() => inTurn(draw), [mix, tiles, version]);
  const draw = () => {
    if (!canvas.current) return;
    const { pen, width, height } = prepare(canvas.current);
    const colours = coloursOf(canvas.current);
    const view = wholeView(mix.frames, width);
    const scene = sceneOf(mix, mix, mix.start_frame, mix.end_frame);
    drawSilence(pen, height, scene, view, colours, width);
    drawWave(pen, width, height, scene, view, tiles, colours);
  };
  return <canvas ref={canvas} className="thumbnail" role="img" aria-label={`Waveform of ${mix.title}`} />;
}
