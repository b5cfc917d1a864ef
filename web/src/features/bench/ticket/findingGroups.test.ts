import { expect, it } from "vitest";
import type { BenchState, Finding, Row } from "../../../api/client";
import { grouped, withoutSignOff, withSignOff } from "./findingGroups";

const finding = (rule: string, verdict: Finding["verdict"], sentence = rule) =>
  ({ rule, verdict, sentence, field: null, frame: null, remedy: null }) as unknown as Finding;
const row = (id: string, ...findings: Finding[]) =>
  ({ id, line_id: id, brief: "audio-cd", findings }) as unknown as Row;

it("says a finding of several files once, what stops a file first", () => {
  const clips = finding("clips", "look");
  const found = grouped([
    row("a", finding("note", "ready"), clips),
    row("b", clips, finding("clips", "look", "Clips elsewhere.")),
    row("c", clips, finding("refused", "stop")),
  ]);
  expect(found.map((one) => [one.finding.sentence, one.rows.map((each) => each.id)])).toEqual([
    ["refused", ["c"]],
    ["clips", ["a", "b", "c"]],
    ["Clips elsewhere.", ["b"]],
    ["note", ["a"]],
  ]);
});

it("accepts a finding once for all files that have it, and none that come later", () => {
  const clips = finding("clips", "look");
  const rows = [row("a", clips), row("b", clips)];
  const [group] = grouped(rows);
  if (!group) throw new Error("no group");
  const bench = withSignOff({ signed: [] } as unknown as BenchState, group, " Ada ", "A test tone.");
  expect(bench.signed).toEqual([
    { rule: "clips", lines: ["a", "b"], briefs: ["audio-cd"], by: "Ada", because: "A test tone." },
  ]);
  expect(grouped(rows, bench.signed)[0]?.signed?.by).toBe("Ada");
  expect(grouped([...rows, row("c", clips)], bench.signed)[0]?.signed).toBeUndefined();
  const other = { ...row("a", clips), brief: "archive" } as Row;
  expect(grouped([other], bench.signed)[0]?.signed).toBeUndefined();
  expect(withSignOff(bench, group, "Bo", "Again.").signed).toHaveLength(1);
  const [sign] = bench.signed;
  expect(sign && withoutSignOff(bench, sign).signed).toEqual([]);
  expect(grouped([row("a", finding("clips", "stop"))], bench.signed)[0]?.signed).toBeUndefined();
});
