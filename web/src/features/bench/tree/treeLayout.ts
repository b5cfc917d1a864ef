import type { Row, Station } from "../../../api/client";

export const COLUMNS = [
  { kind: "source", title: "Mix" },
  { kind: "range", title: "Range" },
  { kind: "finish", title: "Finishing" },
  { kind: "channels", title: "Channels" },
  { kind: "rate", title: "Rate" },
  { kind: "level", title: "Level" },
  { kind: "sides", title: "Split" },
  { kind: "depth", title: "Depth" },
  { kind: "codec", title: "Format" },
  { kind: "name", title: "File" },
] as const;

/** What a cell has beside its words: padding and border; how wide a mark is at least, and the file with its verdict. */
export const ROOMY = { around: 20, least: 40, file: 160, wraps: false };
export const TIGHT = { around: 13, least: 34, file: 150, wraps: true };
const MOST_SOURCE = 80;
const BOLD_FACE = '700 13px "Atkinson Hyperlegible Next Variable", sans-serif';
const SMALL_FACE = '12px "Atkinson Hyperlegible Next Variable", sans-serif';

const TRUNK = 8;
/** Heights of a row: with room, with as little as two lines of words need, and with one line. */
const ROW_PX = { roomy: 46, tight: 34, compact: 28 };
export type Density = "auto" | "compact" | "roomy";

/** How high a row is, and whether it has one line of words: so high that all are seen, where they can be. */
export function rowHeight(room: number, lines: number, density: Density): { px: number; compact: boolean } {
  const share = Math.floor(room / Math.max(1, lines));
  if (density === "compact" || (density === "auto" && share < ROW_PX.tight))
    return { px: ROW_PX.compact, compact: true };
  return { px: Math.max(ROW_PX.tight, Math.min(ROW_PX.roomy, share)), compact: false };
}

export interface Cell {
  readonly row: number;
  readonly column: number;
  readonly station: Station;
  /** The station that comes before it; -1 at the root. */
  readonly parent: number;
}

/** The two files of a split pair part behind their level: their sides have a column of their own. */
function columnOf(row: Row, station: Station): string {
  const late = row.stations.indexOf(station) > row.stations.findIndex((one) => one.kind === "rate");
  return station.kind === "channels" && late ? "sides" : station.kind;
}

/** The columns that some row has a station in; where there is little room, one mix for all has no column. */
export function columnsOf(rows: readonly Row[], tight = false) {
  const sources = new Set(rows.map((row) => row.stations.find((one) => one.kind === "source")?.node));
  return COLUMNS.filter(
    ({ kind }) =>
      !(tight && kind === "source" && sources.size < 2) &&
      rows.some((row) => row.stations.some((one) => columnOf(row, one) === kind)),
  );
}

/** Where every station is drawn: in the first row that has it, branching down from the row before. */
export function layOut(rows: readonly Row[], kinds: readonly string[]): Cell[] {
  const drawn = new Set<number>();
  const cells: Cell[] = [];
  rows.forEach((row, at) => {
    let parent = -1;
    for (const station of row.stations) {
      const column = kinds.indexOf(columnOf(row, station));
      // Some stations are on the path of the panel alone.
      if (column < 0) continue;
      if (!drawn.has(station.node)) {
        drawn.add(station.node);
        cells.push({ row: at, column, station, parent });
      }
      parent = station.node;
    }
  });
  return cells;
}

/** Columns of which every cell says the same in other words than the first: those shrink to a mark. */
export function repeated(cells: readonly Cell[], kinds: readonly string[]): ReadonlySet<string> {
  return new Set(
    kinds.filter((kind, column) => {
      const words = cells.filter((cell) => cell.column === column).map(({ station }) => wordsOf(station));
      return kind !== "name" && kind !== "source" && words.length > 1 && new Set(words).size === 1;
    }),
  );
}

const wordsOf = ({ label, detail }: Station) => `${label}\n${detail}`;

/**
 * Widths by content: no column is wider than its words and none truncates one; files get the rest,
 * and text wraps before it is truncated.
 */
export function widthsOf(
  columns: readonly { kind: string; title: string }[],
  cells: readonly Cell[],
  shrunk: ReadonlySet<string>,
  mix: string,
  room: typeof ROOMY,
  wide: (text: string, face: string) => number = textWidth,
): string {
  const { around, least, file, wraps } = room;
  return columns
    .map(({ kind, title }, column) => {
      const said = cells
        .filter((cell) => cell.column === column)
        .map(({ station }): [string, string] =>
          shrunk.has(kind)
            ? [station.label, ""]
            : kind === "source"
              ? [mix, ""]
              : [station.label, station.detail],
        );
      const need = said.map(([bold, small]) => Math.max(wide(bold, BOLD_FACE), wide(small, SMALL_FACE)));
      if (kind === "name") return `minmax(${file}px, 1fr)`;
      const words = said.flatMap(([bold, small]) => [
        ...(wraps || kind === "source" ? bold.split(/\s+/) : [bold]).map((word) => wide(word, BOLD_FACE)),
        ...small.split(/\s+/).map((word) => wide(word, SMALL_FACE)),
      ]);
      const most = Math.ceil(Math.max(wide(title, BOLD_FACE) - around + 6, ...need) + around);
      const fewest = Math.ceil(Math.max(wide(title, SMALL_FACE) - around + 6, ...words) + around);
      // What the mix is stands above the tree: its column takes nothing from the others.
      const widest = kind === "source" ? Math.min(most, Math.max(fewest, MOST_SOURCE)) : most;
      return `minmax(${Math.min(Math.max(least, fewest), widest)}px, ${widest}px)`;
    })
    .join(" ");
}

let measuring: CanvasRenderingContext2D | null = null;

function textWidth(text: string, face: string): number {
  measuring ??= document.createElement("canvas").getContext("2d");
  if (!measuring) return text.length * 8;
  measuring.font = face;
  return measuring.measureText(text).width;
}

/** From the middle of each station's right side, by a trunk close to it, to the left side of those behind it. */
export function linesIn(box: HTMLElement, joints: string): string[] {
  const frame = box.getBoundingClientRect();
  const places = new Map<string, DOMRect>();
  for (const cell of box.querySelectorAll<HTMLElement>("[data-node]"))
    places.set(cell.dataset.node ?? "", cell.getBoundingClientRect());
  return joints.split(" ").flatMap((joint) => {
    const [parent, child] = joint.split(">");
    const from = places.get(parent ?? "");
    const to = places.get(child ?? "");
    if (!from || !to) return [];
    const x = from.right - frame.left + box.scrollLeft;
    const y = (from.top + from.bottom) / 2 - frame.top + box.scrollTop;
    const endX = to.left - frame.left + box.scrollLeft;
    const endY = (to.top + to.bottom) / 2 - frame.top + box.scrollTop;
    return [`M${x} ${y}H${x + TRUNK}V${endY}H${endX}`];
  });
}
