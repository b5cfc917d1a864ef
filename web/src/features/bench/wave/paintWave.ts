import type { LevelTrial, Mix } from "../../../api/client";
import type { Timing } from "../../../shared/time/TimeField";
import { coloursOf, drawRuler, drawSilence, drawWave, prepare, sceneOf } from "../../../shared/waveform/draw";
import type { View } from "../../../shared/waveform/geometry";
import type { useTiles } from "../../../shared/waveform/useTiles";
import type { Range } from "../model";
import type { useClipped, useLoudness, useTruePeaks } from "../queries";
import {
  bandsHeight,
  drawBands,
  drawClipped,
  drawEdges,
  drawLoudness,
  drawReduction,
  drawTruePeaks,
  type stacked,
} from "./drawRange";
import { rulerTicks } from "./ruler";

export const RULER_HEIGHT = 22;

/** Everything that the large waveform is drawn from. */
export interface WaveScene {
  readonly mix: Mix;
  readonly view: View;
  readonly tiles: ReturnType<typeof useTiles>[0];
  readonly timing: Timing;
  readonly decibels: boolean;
  /** The range as it is, or as it is being dragged. */
  readonly shown: { readonly start_frame: number; readonly end_frame: number };
  readonly dragging: boolean;
  readonly range: Range;
  readonly bands: ReturnType<typeof stacked>;
  readonly severalRanges: boolean;
  readonly heardEnd: number;
  readonly loudness: ReturnType<typeof useLoudness>["data"];
  readonly truePeaks: ReturnType<typeof useTruePeaks>["data"];
  readonly clipped: ReturnType<typeof useClipped>["data"];
  readonly reduction: LevelTrial | undefined;
}

export function paintWave(canvas: HTMLCanvasElement, wanted: WaveScene): void {
  const { mix, view, timing, shown, bands, range } = wanted;
  const scene = {
    ...sceneOf(mix, mix.measures, shown.start_frame, shown.end_frame),
    decibels: wanted.decibels,
  };
  const colours = coloursOf(canvas);
  const { pen, width, height: whole } = prepare(canvas);
  const height = whole - RULER_HEIGHT;
  const font = `12px ${getComputedStyle(canvas).fontFamily}`;
  const ticks = rulerTicks(timing.unit, view, width, mix.rate_hz, timing.bars);
  drawRuler(pen, width, RULER_HEIGHT, view, colours, font, ticks);
  pen.translate(0, RULER_HEIGHT);
  drawSilence(pen, height, scene, view, colours, width);
  drawWave(pen, width, height, scene, view, wanted.tiles, colours);
  if (wanted.loudness) drawLoudness(pen, width, height, scene, view, wanted.loudness, colours);
  const below = wanted.severalRanges ? bandsHeight(bands) : 0;
  if (wanted.clipped) drawClipped(pen, width, height, mix.channels, view, wanted.clipped, colours);
  if (wanted.truePeaks) drawTruePeaks(pen, width, below, view, wanted.truePeaks, colours);
  if (wanted.reduction) drawReduction(pen, width, view, wanted.reduction, colours);
  if (!wanted.dragging) drawEdges(pen, height, scene.rateHz, view, range, wanted.heardEnd, colours);
  if (wanted.severalRanges) drawBands(pen, canvas, width, view, bands, range.id);
}
