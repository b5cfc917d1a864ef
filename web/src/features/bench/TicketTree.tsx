import { type KeyboardEvent, useRef } from "react";
import type { Mix, Row, Station } from "../../api/client";
import { bytes } from "../../shared/format";
import { VerdictMark } from "../../shared/Verdict";

const COLUMNS = [
  { kind: "source", title: "Mix", width: "minmax(80px, 1.35fr)" },
  { kind: "range", title: "Range", width: "minmax(76px, 1.15fr)" },
  { kind: "rate", title: "Rate", width: "minmax(66px, 1fr)" },
  { kind: "channels", title: "Channels", width: "minmax(66px, 0.9fr)" },
  { kind: "depth", title: "Depth", width: "minmax(66px, 1fr)" },
  { kind: "codec", title: "Container", width: "minmax(74px, 1fr)" },
  { kind: "name", title: "File", width: "minmax(150px, 2.2fr)" },
] as const;

export interface Chosen {
  readonly row: number;
  readonly kind: string;
}

interface TicketTreeProps {
  mix: Mix;
  rows: readonly Row[];
  chosen: Chosen;
  choose: (chosen: Chosen) => void;
}

interface Cell {
  readonly row: number;
  readonly column: number;
  readonly station: Station;
  /** The row that the branch comes from when it begins here; the row itself when it runs straight. */
  readonly from: number;
}

/** Where every station is drawn: in the first row that has it, branching down from the row before. */
export function layOut(rows: readonly Row[], kinds: readonly string[]): Cell[] {
  const drawn = new Map<number, number>();
  const branches = new Map<number, number>();
  const cells: Cell[] = [];
  rows.forEach((row, at) => {
    let parent = -1;
    for (const station of row.stations) {
      if (!drawn.has(station.node)) {
        drawn.set(station.node, at);
        cells.push({
          row: at,
          column: kinds.indexOf(station.kind),
          station,
          from: branches.get(parent) ?? drawn.get(parent) ?? at,
        });
        branches.set(parent, at);
      }
      parent = station.node;
    }
  });
  return cells;
}

/** The ticket as the tree it is, read from left to right; what rows share is drawn once. */
export function TicketTree({ mix, rows, chosen, choose }: TicketTreeProps) {
  const tree = useRef<HTMLFieldSetElement>(null);
  const columns = COLUMNS.filter((column) =>
    rows.some((row) => row.stations.some((one) => one.kind === column.kind)),
  );
  const kinds = columns.map((column): string => column.kind);
  const cells = layOut(rows, kinds);
  const chosenNode = rows[chosen.row]?.stations.find((one) => one.kind === chosen.kind)?.node;
  const row = rows[chosen.row];

  const go = (rowAt: number, kind: string) => {
    choose({ row: rowAt, kind });
    const node = rows[rowAt]?.stations.find((one) => one.kind === kind)?.node;
    tree.current?.querySelector<HTMLElement>(`[data-node="${node}"]`)?.focus();
  };
  const onKey = (event: KeyboardEvent) => {
    const path = row?.stations ?? [];
    const at = path.findIndex((one) => one.kind === chosen.kind);
    const down = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    const along = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (down) {
      // A shared station is one cell: going down goes on to the first row that has another of its kind.
      let next = chosen.row + down;
      const nodeAt = (index: number) => rows[index]?.stations.find((one) => one.kind === chosen.kind)?.node;
      while (rows[next] && (nodeAt(next) === undefined || nodeAt(next) === nodeAt(chosen.row))) next += down;
      if (rows[next]) go(next, chosen.kind);
    } else if (along) {
      const next = path[Math.max(0, Math.min(path.length - 1, at + along))];
      if (next) go(chosen.row, next.kind);
    } else return;
    event.preventDefault();
  };
  const template = columns.map((column) => column.width).join(" ");
  return (
    <div className="tree">
      <div className="tree-heads" aria-hidden="true" style={{ gridTemplateColumns: template }}>
        {columns.map((column) => (
          <span key={column.kind}>{column.title}</span>
        ))}
      </div>
      <fieldset
        className={`tree-rows${rows.length > 1 ? " tree-many" : ""}`}
        style={{ gridTemplateColumns: template }}
        ref={tree}
        aria-label="The ticket: the path of the signal to every file"
        data-arrows
        onKeyDown={onKey}
      >
        {cells.map(({ row: at, column, station, from }) => {
          const path = rows[at]?.stations ?? [];
          const before = path[path.indexOf(station) - 1];
          const gap = before ? column - kinds.indexOf(before.kind) : 0;
          return (
            <div
              key={station.node}
              className={`node${before ? " node-joined" : ""}${from < at ? " node-branch" : ""}`}
              style={
                {
                  gridRow: at + 1,
                  gridColumn: column + 1,
                  "--rise": at - from,
                  "--skipped": Math.max(0, gap - 1),
                } as React.CSSProperties
              }
            >
              <button
                type="button"
                data-node={station.node}
                className={`cell${station.idle ? " cell-idle" : ""}${station.kind === "name" ? " cell-file" : ""}`}
                aria-pressed={station.node === chosenNode}
                tabIndex={station.node === chosenNode ? 0 : -1}
                onClick={() => choose({ row: at, kind: station.kind })}
              >
                <CellText station={station} row={rows[at]} mix={mix} />
              </button>
            </div>
          );
        })}
      </fieldset>
      {row && (
        <p className="tree-why">
          <b>{row.brief_title}.</b> {row.brief_sentence} {row.brief_why}
        </p>
      )}
    </div>
  );
}

function CellText({ station, row, mix }: { station: Station; row: Row | undefined; mix: Mix }) {
  if (station.kind === "name" && row) {
    return (
      <>
        <VerdictMark verdict={row.verdict} />
        <span>
          <b title={row.file_name}>{row.file_name}</b>
          <small>
            {row.brief_title} · {bytes(row.forecast_bytes)} · {row.verdict}
          </small>
        </span>
      </>
    );
  }
  return (
    <span>
      <b>{station.kind === "source" ? mix.title : station.label}</b>
      <small>{station.detail}</small>
    </span>
  );
}
