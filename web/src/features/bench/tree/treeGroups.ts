import type { Row } from "../../../api/client";

/** Files of one range of one source: they stand together in the tree, and fold to one line. */
export interface TreeGroup {
  readonly key: string;
  readonly title: string;
  readonly rows: readonly Row[];
}

/** From so many files on a ticket is overseen by its groups. */
export const MANY = 13;

const labelOf = (row: Row, kind: string) => row.stations.find((one) => one.kind === kind)?.label ?? "";
const keyOf = (row: Row) => `${row.range_id} ${labelOf(row, "source")}`;

/** The groups of a ticket in the order of the tree; none where there are few files, or where all are of one range. */
export function groupsOf(rows: readonly Row[]): readonly TreeGroup[] {
  if (rows.length < MANY) return [];
  const found = new Map<string, Row[]>();
  for (const row of rows) found.set(keyOf(row), [...(found.get(keyOf(row)) ?? []), row]);
  if (found.size < 2) return [];
  const several = new Set(rows.map((row) => labelOf(row, "source"))).size > 1;
  return [...found].map(([key, inside]) => {
    const [first] = inside as [Row];
    const range = labelOf(first, "range");
    return { key, rows: inside, title: several ? `${labelOf(first, "source")}, ${range}` : range };
  });
}

/** A line of the tree: the head of a group, or a file. */
export type TreeLine =
  | { readonly head: TreeGroup; readonly folded: boolean }
  | { readonly head: null; readonly row: Row };

/** The rows of the tree: heads of groups, if any, and the files of expanded ones. */
export function linesOf(
  rows: readonly Row[],
  groups: readonly TreeGroup[],
  folded: ReadonlySet<string>,
): readonly TreeLine[] {
  if (!groups.length) return rows.map((row) => ({ head: null, row }));
  return groups.flatMap((head): TreeLine[] => {
    const away = folded.has(head.key);
    const files = away ? [] : head.rows.map((row): TreeLine => ({ head: null, row }));
    return [{ head, folded: away }, ...files];
  });
}

/** The group of a file. */
export const groupOf = (groups: readonly TreeGroup[], row: Row | undefined) =>
  groups.find((group) => group.rows.some((one) => one.id === row?.id));
