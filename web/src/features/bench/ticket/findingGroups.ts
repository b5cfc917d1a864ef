import type { Finding, Row } from "../../../api/client";

/** One finding of any number of files: said once, mended at once. */
export interface FindingGroup {
  readonly finding: Finding;
  readonly rows: readonly Row[];
}

const RANK: Record<Finding["verdict"], number> = { stop: 0, look: 1, ready: 2 };

/** The findings of a ticket, what keeps a file from leaving first; those that say the same are one. */
export function grouped(rows: readonly Row[]): readonly FindingGroup[] {
  const found = new Map<string, { finding: Finding; rows: Row[] }>();
  for (const row of rows) {
    for (const finding of row.findings) {
      const key = `${finding.rule}\n${finding.field}\n${finding.sentence}\n${finding.remedy?.label}`;
      const group = found.get(key);
      if (!group) found.set(key, { finding, rows: [row] });
      else if (!group.rows.includes(row)) group.rows.push(row);
    }
  }
  return [...found.values()].sort(
    (one, other) =>
      RANK[one.finding.verdict] - RANK[other.finding.verdict] || other.rows.length - one.rows.length,
  );
}
