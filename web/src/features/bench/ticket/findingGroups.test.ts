import { expect, it } from "vitest";
import type { Finding, Row } from "../../../api/client";
import { grouped } from "./findingGroups";

const finding = (rule: string, verdict: Finding["verdict"], sentence = rule) =>
  ({ rule, verdict, sentence, field: null, frame: null, remedy: null }) as unknown as Finding;
const row = (id: string, ...findings: Finding[]) => ({ id, findings }) as unknown as Row;

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
