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

test("a file says where it is, and how fast while it is made", () => {
  expect(stage(line({}), false)).toBe("being made, 12 times real time");
  expect(stage(line({ times_realtime: 3.14 }), false)).toBe("being made, 3.1 times real time");
  expect(stage(line({ state: "reading-back" }), false)).toBe("being read back");
  expect(stage(line({}), true)).toBe("held");
  expect(stage(line({ state: "named" }), true)).toBe("named");
});

test("what waits says how long it takes, what was cut off says why it stands", () => {
  const pressing = { state: "waiting", waits_seconds: 9.2, error: null } as Pressing;
  expect(waiting(pressing)).toBe("waits: about 9 s of work");
  expect(waiting({ ...pressing, state: "cut-off", error: "It was stopped." })).toBe("It was stopped.");
});

test("the error of the time left is told in whole percent, and never as none", () => {
  expect(offBy(0.123)).toBe("time left was told to within 12 % lately");
  expect(offBy(0.001)).toBe("time left was told to within 1 % lately");
  expect(offBy(null)).toBe("");
});

test("files that were looked for are counted, a moved one as it was pressed", () => {
  const file = (found: PressedFile["found"]) => ({ found, found_at: found && "2026-11-26T10:00:00Z" });
  const files = [file("as-pressed"), file("moved"), file("gone"), file(null)] as PressedFile[];
  expect(asPressed({ files } as Pressing)).toEqual({ same: 2, of: 3, at: "2026-11-26T10:00:00Z" });
  expect(asPressed({ files: [file(null)] } as Pressing)).toBeNull();
});
