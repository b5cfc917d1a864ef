import { useEffect, useState } from "react";
import type { Row } from "../../../api/client";
import { groupOf, groupsOf, linesOf } from "./treeGroups";

/** Collapsed groups of the tree; a file selected elsewhere expands its group, so that it is visible. */
export function useFolding(rows: readonly Row[], chosen: Row | undefined) {
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const groups = groupsOf(rows);
  const own = groupOf(groups, chosen)?.key;
  // Only another selection expands, not the collapse of the selected group.
  useEffect(() => {
    if (own !== undefined) setFolded((now) => without(now, own));
  }, [chosen?.id]);
  const lines = linesOf(rows, groups, folded);
  const shown = lines.flatMap((line) => (line.head ? [] : [line.row]));
  const places = lines.flatMap((line, at) => (line.head ? [] : [at + 1]));
  const allFolded = groups.length > 0 && groups.every((group) => folded.has(group.key));
  return {
    groups,
    lines,
    shown,
    allFolded,
    /** The grid row of a visible file. */
    placeOf: (row: number) => places[row] ?? row + 1,
    turn: (key: string) => setFolded((now) => (now.has(key) ? without(now, key) : new Set([...now, key]))),
    turnAll: () => setFolded(allFolded ? new Set() : new Set(groups.map((group) => group.key))),
  };
}

function without(all: ReadonlySet<string>, key: string): ReadonlySet<string> {
  return all.has(key) ? new Set([...all].filter((one) => one !== key)) : all;
}
