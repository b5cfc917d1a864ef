import { describe, expect, it } from "vitest";
import type { PressedFile } from "../../api/client";
import { linesOf } from "./lines";

const file = (more: object) =>
  ({
    sample_rate_hz: 44_100,
    bit_depth: 16,
    codec: "pcm",
    channels: 2,
    frames: 441_000,
    checks: [],
    findings: [],
    measured: {
      sample_peak_dbfs: -1,
      true_peak_dbtp: -0.5,
      integrated_lufs: -9,
      gain_db: 2,
      reduction_db: null,
      clipped_samples: 0,
    },
    ...more,
  }) as unknown as PressedFile;

const outcomes = (made: PressedFile) =>
  Object.fromEntries(linesOf(made).map((line) => [line.title, line.outcome]));

describe("the proof of a file", () => {
  it("marks figures that were compared with a requirement, by the ids of rules and figures", () => {
    const found = outcomes(
      file({
        checks: [
          { rule: "rate_as_asked", title: "Sample rate", found: "44.1 kHz", measure: null },
          { rule: "ceiling_held", title: "True peak", found: "x", measure: "true_peak" },
          { rule: "tags_read_back", title: "Tags", found: "3 fields read back", measure: null },
        ],
        findings: [
          { rule: "frames_as_asked", sentence: "Whatever.", measure: null },
          { rule: "loudness_out_of_reach", sentence: "Whatever.", measure: "loudness" },
        ],
      }),
    );
    expect(found).toMatchObject({
      "Sample rate": "yes",
      Length: "no",
      "True peak": "yes",
      Loudness: "no",
      "Sample peak": "measured",
      Tags: "yes",
      Gain: "measured",
    });
    expect(found).not.toHaveProperty("Most gain reduction");
  });

  it("reads files pressed before checks had ids", () => {
    const found = linesOf(file({ checks: [{ rule: "", title: "Length", found: "441,000 frames" }] }));
    expect(found.filter((line) => line.title === "Length")).toHaveLength(1);
    expect(outcomes(file({ checks: [{ rule: "", title: "Length", found: "" }] })).Length).toBe("yes");
  });
});
