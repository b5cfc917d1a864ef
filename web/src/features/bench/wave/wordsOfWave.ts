import type { Mix } from "../../../api/client";
import { clock, counted, level } from "../../../shared/text/format";
import type { Range } from "../model";

/** A description of the waveform for screen readers. */
export function wordsOfWave(mix: Mix, range: Range): string {
  const { measures, rate_hz: hz, frames } = mix;
  const at = (frame: number) => clock(frame, hz);
  const parts = [
    at(frames),
    `peak at ${clock(Math.round(measures.sample_peak_at_s * hz), hz)}, ${level(measures.sample_peak_dbfs)}`,
    `${level(measures.integrated_lufs, "LUFS")} integrated`,
  ];
  if (measures.head_silence_frames > hz / 10) parts.push(`silent until ${at(measures.head_silence_frames)}`);
  if (measures.tail_silence_frames > hz / 10)
    parts.push(`silent after ${at(frames - measures.tail_silence_frames)}`);
  if (measures.samples_over_full_scale > 0)
    parts.push(`${counted(measures.samples_over_full_scale, "sample")} over full scale`);
  parts.push(`range from ${at(range.start_frame)} to ${at(range.end_frame)}`);
  return `Waveform of ${mix.title}: ${parts.join(", ")}`;
}
