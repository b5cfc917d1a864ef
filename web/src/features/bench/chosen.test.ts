import { describe, expect, it } from "vitest";
import type { Row } from "../../api/client";
import { rowOf, stationAt } from "./chosen";

const rows = (...lines: string[]) => lines.map((line_id) => ({ line_id }) as unknown as Row);

describe("a chosen station", () => {
  it("stays with its delivery when rows move, and with its own file of a split", () => {
    const chosen = stationAt(rows("a", "b", "b"), 2, "depth");
    expect(chosen).toEqual({ line: "b", file: 1, kind: "depth" });
    expect(rowOf(rows("b", "b", "a"), chosen)).toBe(1);
    expect(rowOf(rows("a", "b"), chosen)).toBe(1);
    expect(rowOf(rows("a"), chosen)).toBe(0);
  });
});
