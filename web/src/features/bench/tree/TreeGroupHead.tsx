import { bytes, counted } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { VERDICTS } from "../../../shared/text/words";
import type { TreeGroup } from "./treeGroups";

interface TreeGroupHeadProps {
  group: TreeGroup;
  folded: boolean;
  at: number;
  turn: (key: string) => void;
}

const WORST = ["stop", "look", "ready"] as const;

/** The head of the files of one range: how many, how large together, how they stand; it folds them away. */
export function TreeGroupHead({ group, folded, at, turn }: TreeGroupHeadProps) {
  const { rows } = group;
  const size = rows.reduce((sum, row) => sum + row.size.middle, 0);
  const counts = WORST.map(
    (verdict) => [verdict, rows.filter((row) => row.verdict === verdict).length] as const,
  );
  const worst = counts.find(([, count]) => count > 0)?.[0] ?? "ready";
  const parts = counts
    .filter(([, count]) => count > 0)
    .map(([verdict, count]) => `${count} ${VERDICTS[verdict]}`);
  return (
    <div className="tree-group" style={{ gridRow: at }}>
      <button type="button" aria-expanded={!folded} onClick={() => turn(group.key)}>
        <span aria-hidden="true">{folded ? "▸" : "▾"}</span>
        <b>{group.title}</b>
        <VerdictMark verdict={worst} size={15} />
        <small>
          {counted(rows.length, "file")} · {bytes(size)} · {parts.join(", ")}
        </small>
      </button>
    </div>
  );
}
