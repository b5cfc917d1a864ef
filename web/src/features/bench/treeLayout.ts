import type { Row, Station } from "../../api/client";

export const COLUMNS = [
  { kind: "source", title: "Mix", width: "minmax(54px, 1.1fr)" },
  { kind: "range", title: "Range", width: "minmax(56px, 1fr)" },
  { kind: "finish", title: "Finish", width: "minmax(52px, 0.85fr)" },
  { kind: "channels", title: "Channels", width: "minmax(54px, 0.9fr)" },
  { kind: "rate", title: "Rate", width: "minmax(52px, 1fr)" },
  { kind: "level", title: "Level", width: "minmax(58px, 1.05fr)" },
  { kind: "sides", title: "Sides", width: "minmax(54px, 0.9fr)" },
  { kind: "depth", title: "Depth", width: "minmax(52px, 1fr)" },
  { kind: "codec", title: "Format", width: "minmax(56px, 1fr)" },
  { kind: "tags", title: "Tags", width: "minmax(54px, 0.7fr)" },
  { kind: "name", title: "File", width: "minmax(124px, 2.6fr)" },
] as const;

const TRUNK = 8;

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

/** The columns that some row has a station in. */
export const columnsOf = (rows: readonly Row[]) =>
  COLUMNS.filter((column) =>
    rows.some((row) => row.stations.some((one) => columnOf(row, one) === column.kind)),
  );

/** Where every station is drawn: in the first row that has it, branching down from the row before. */
export function layOut(rows: readonly Row[], kinds: readonly string[]): Cell[] {
  const drawn = new Set<number>();
  const cells: Cell[] = [];
  rows.forEach((row, at) => {
    let parent = -1;
    for (const station of row.stations) {
      if (!drawn.has(station.node)) {
        drawn.add(station.node);
        cells.push({ row: at, column: kinds.indexOf(columnOf(row, station)), station, parent });
      }
      parent = station.node;
    }
  });
  return cells;
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
