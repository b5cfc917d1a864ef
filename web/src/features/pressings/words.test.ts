import { expect, test } from "vitest";
import type { FileLine, PressedFile, Pressing } from "../../api/client";
import { asPressed, offBy, stage, waiting } from "./words";

const line = (part: Partial<FileLine>): FileLine => ({
  number: 0,
  name: "Weir.wav",
  state: "making",
  error: null,
  part: 0.5,
  times_realtime: 12.4,
  ...part,
});

test("file state, with speed while rendering", () => {
  expect(stage(line({}), false)).toBe("rendering, 12× real time");
  expect(stage(line({ times_realtime: 3.14 }), false)).toBe("rendering, 3.1× real time");
  expect(stage(line({ state: "reading-back" }), false)).toBe("verifying");
  expect(stage(line({}), true)).toBe("paused");
  expect(stage(line({ state: "named" }), true)).toBe("done");
});

test("waiting pressing shows its duration, interrupted one its reason", () => {
  const pressing = { state: "queued", waits_seconds: 9.2, error: null } as Pressing;
  expect(waiting(pressing)).toBe("queued, about 9 s");
  expect(waiting({ ...pressing, state: "interrupted", error: "It was stopped." })).toBe("It was stopped.");
});

test("estimate error is in whole percent, never 0", () => {
  expect(offBy(0.123)).toBe("estimates within 12 %");
  expect(offBy(0.001)).toBe("estimates within 1 %");
  expect(offBy(null)).toBe("");
});

test("checked files are counted, moved ones as unchanged", () => {
  const file = (found: PressedFile["found"]) => ({ found, found_at: found && "2026-11-26T10:00:00Z" });
  const files = [file("as-pressed"), file("moved"), file("gone"), file(null)] as PressedFile[];
  expect(asPressed({ files } as Pressing)).toEqual({ same: 2, of: 3, at: "2026-11-26T10:00:00Z" });
  expect(asPressed({ files: [file(null)] } as Pressing)).toBeNull();
});
