import type { BenchState, Finding, Row, SignOff } from "../../../api/client";

/** One finding of any number of files: said once, mended at once. */
export interface FindingGroup {
  readonly finding: Finding;
  readonly rows: readonly Row[];
  /** The sign-off for all of these files, where there is one. */
  readonly signed: SignOff | undefined;
}

const RANK: Record<Finding["verdict"], number> = { stop: 0, look: 1, ready: 2 };

/** The findings of a ticket, what keeps a file from leaving first; those that say the same are one. */
export function grouped(rows: readonly Row[], signed: readonly SignOff[] = []): readonly FindingGroup[] {
  const found = new Map<string, { finding: Finding; rows: Row[] }>();
  for (const row of rows) {
    for (const finding of row.findings) {
      const key = `${finding.rule}\n${finding.field}\n${finding.sentence}\n${finding.remedy?.label}`;
      const group = found.get(key);
      if (!group) found.set(key, { finding, rows: [row] });
      else if (!group.rows.includes(row)) group.rows.push(row);
    }
  }
  const groups = [...found.values()].map((group) => ({ ...group, signed: signOffOf(group, signed) }));
  return groups.sort(
    (one, other) =>
      Number(one.signed !== undefined) - Number(other.signed !== undefined) ||
      RANK[one.finding.verdict] - RANK[other.finding.verdict] ||
      other.rows.length - one.rows.length,
  );
}

type Found = Pick<FindingGroup, "finding" | "rows">;

function signOffOf({ finding, rows }: Found, signed: readonly SignOff[]): SignOff | undefined {
  if (finding.verdict !== "look") return undefined;
  return signed.find(
    ({ rule, lines, briefs }) =>
      rule === finding.rule && rows.every((row) => lines.includes(row.line_id) && briefs.includes(row.brief)),
  );
}

/** The bench with a finding accepted for its files, in the place of an earlier sign-off for them. */
export function withSignOff(
  bench: BenchState,
  { finding, rows }: Found,
  by: string,
  because: string,
): BenchState {
  const lines = [...new Set(rows.map((row) => row.line_id))];
  const briefs = [...new Set(rows.map((row) => row.brief))];
  const kept = bench.signed.filter(
    (one) => one.rule !== finding.rule || !one.lines.every((id) => lines.includes(id)),
  );
  return {
    ...bench,
    signed: [...kept, { rule: finding.rule, lines, briefs, by: by.trim(), because: because.trim() }],
  };
}

export const withoutSignOff = (bench: BenchState, sign: SignOff): BenchState => ({
  ...bench,
  signed: bench.signed.filter((one) => one !== sign),
});
