import type { PressedFile } from "../../api/client";
import { channels, counted, level, rate } from "../../shared/text/format";

/**
 * A figure of a file that was read back; `outcome` is the result of a comparison with a
 * requirement, if there is one.
 */
export interface ProofLine {
  readonly title: string;
  readonly found: string;
  readonly outcome: "yes" | "no" | "measured";
}

type Check = PressedFile["checks"][number];
type Measure = NonNullable<Check["measure"]>;

/** Every line of the proof of a file: first what all files have, then whatever else was checked. */
export function linesOf(file: PressedFile): ProofLine[] {
  const { checks, findings, measured } = file;
  const listed = new Set<Check>();
  const outcomeOf = (passed: Check | undefined, failed: boolean): ProofLine["outcome"] => {
    if (passed) listed.add(passed);
    return failed ? "no" : passed ? "yes" : "measured";
  };
  const asked = (title: string, found: string, rule: Check["rule"]): ProofLine => ({
    title,
    found,
    // Files pressed before checks had ids are matched by their titles.
    outcome: outcomeOf(
      checks.find((one) => (one.rule ? one.rule === rule : one.title === title)),
      findings.some((one) => one.rule === rule),
    ),
  });
  const figure = (title: string, value: number | null, unit: string, measure: Measure): ProofLine[] => {
    const passed = checks.find((one) => (one.rule ? one.measure === measure : one.title === title));
    const line = {
      title,
      found: level(value, unit),
      outcome: outcomeOf(
        passed,
        findings.some((one) => one.measure === measure),
      ),
    };
    return value === null && measure !== "sample_peak" ? [] : [line];
  };
  const plain = (title: string, value: number | null, unit: string): ProofLine[] =>
    value === null ? [] : [{ title, found: level(value, unit), outcome: "measured" }];
  const lines: ProofLine[] = [
    asked("Sample rate", rate(file.sample_rate_hz), "rate_as_asked"),
    file.bit_depth === null
      ? asked("Codec", file.codec, "codec_as_asked")
      : asked("Bit depth", `${file.bit_depth} bits`, "depth_as_asked"),
    asked("Channels", channels(file.channels), "channels_as_asked"),
    asked("Length", counted(file.frames, "sample"), "frames_as_asked"),
    ...figure("Sample peak", measured.sample_peak_dbfs, "dBFS", "sample_peak"),
    ...figure("True peak", measured.true_peak_dbtp, "dBTP", "true_peak"),
    ...figure("Loudness", measured.integrated_lufs, "LUFS", "loudness"),
    ...plain("Gain", measured.gain_db, "dB"),
    ...plain("Max gain reduction", measured.reduction_db, "dB"),
  ];
  const others = checks
    .filter((one) => !listed.has(one) && !lines.some((line) => line.title === one.title))
    .map((one): ProofLine => ({ title: one.title, found: one.found, outcome: "yes" }));
  const clipped = counted(measured.clipped_samples, "sample");
  return [...lines, ...others, { title: "Clipped in this pressing", found: clipped, outcome: "measured" }];
}
