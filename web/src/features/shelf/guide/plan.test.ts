import { describe, expect, it } from "vitest";
import type { BenchState, Defaults, Mix, Row } from "../../../api/client";
import { benchFor, mend } from "./plan";

const changes = { level: null, kbps: null };
const bench = { ranges: [{ id: "r1" }], ticket: [{ id: "old" }] } as unknown as BenchState;
const mix = { bench } as Mix;
const made = () => benchFor(mix, "audio-cd", { changes } as unknown as Defaults);
const row = (...findings: unknown[]) => ({ findings, line_id: "g1" }) as unknown as Row;

describe("a file in three steps", () => {
  it("is one delivery of the whole mix, without the ticket's", () => {
    expect(made().ticket).toMatchObject([{ brief: "audio-cd", range_id: "r1", changes }]);
  });
  it("applies fitting remedies, and leaves decisions to the user", () => {
    const trimmed = { sentence: "Silence is left.", remedy: { label: "Trim silence", changes: null } };
    const over = {
      sentence: "It clips.",
      remedy: { label: "True peak", changes: { level: { target: -1 }, kbps: null } },
    };
    expect(mend(made(), row(trimmed))).toBeNull();
    expect(mend(made(), undefined)).toBeNull();
    const [next, reason] = mend(made(), row(trimmed, over)) ?? [];
    expect(next?.ticket[0]?.changes).toMatchObject({ level: { target: -1 }, kbps: null });
    expect(reason).toEqual({ because: "It clips.", label: "True peak" });
  });
});
