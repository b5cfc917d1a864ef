import { Button } from "antd";
import { type KeyboardEvent, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Mix, Refused, Row, Station, TicketLine } from "../../api/client";
import { bytes } from "../../shared/format";
import { VerdictMark } from "../../shared/Verdict";

const COLUMNS = [
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

export interface Chosen {
  readonly row: number;
  readonly kind: string;
}

interface TicketTreeProps {
  mix: Mix;
  rows: readonly Row[];
  refused: readonly Refused[];
  off: readonly TicketLine[];
  chosen: Chosen;
  choose: (chosen: Chosen) => void;
  acts: TicketActs;
}

export interface TicketActs {
  readonly add: () => void;
  readonly switchOn: (id: string, on: boolean) => void;
  readonly copy: (id: string) => void;
  readonly move: (id: string, step: -1 | 1) => void;
  readonly remove: (id: string) => void;
}

interface Cell {
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
function linesIn(box: HTMLElement, joints: string): string[] {
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

/** The ticket as the tree it is, read from left to right; what rows share is drawn once. */
export function TicketTree({ mix, rows, refused, off, chosen, choose, acts }: TicketTreeProps) {
  const tree = useRef<HTMLFieldSetElement>(null);
  const columns = COLUMNS.filter((column) =>
    rows.some((row) => row.stations.some((one) => columnOf(row, one) === column.kind)),
  );
  const kinds = columns.map((column): string => column.kind);
  const cells = layOut(rows, kinds);
  const chosenNode = rows[chosen.row]?.stations.find((one) => one.kind === chosen.kind)?.node;
  const row = rows[chosen.row];

  const [lines, setLines] = useState<readonly string[]>([]);
  const joints = cells.map((cell) => `${cell.parent}>${cell.station.node}`).join(" ");
  useLayoutEffect(() => {
    const box = tree.current;
    if (!box) return;
    const draw = () => setLines(linesIn(box, joints));
    draw();
    const observer = new ResizeObserver(draw);
    observer.observe(box);
    return () => observer.disconnect();
  }, [joints]);

  // Whatever chose it, what is chosen is in sight.
  useEffect(() => {
    tree.current?.querySelector(`[data-node="${chosenNode}"]`)?.scrollIntoView({ block: "nearest" });
  }, [chosenNode]);

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
        <svg className="tree-lines" aria-hidden="true">
          {lines.map((line) => (
            <path key={line} d={line} />
          ))}
        </svg>
        {cells.map(({ row: at, column, station }) => {
          return (
            <div key={station.node} className="node" style={{ gridRow: at + 1, gridColumn: column + 1 }}>
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
      {(refused.length > 0 || off.length > 0) && (
        <ul className="tree-rest">
          {refused.map((one) => (
            <li key={one.line_id} role="alert">
              <VerdictMark verdict="stop" /> <span>{one.sentence}</span>
              <Button size="small" onClick={() => acts.remove(one.line_id)}>
                Take off
              </Button>
            </li>
          ))}
          {off.map((line) => (
            <li key={line.id}>
              <span className="quiet">Switched off: {line.brief}</span>
              <Button size="small" onClick={() => acts.switchOn(line.id, true)}>
                Switch on
              </Button>
              <Button size="small" type="text" onClick={() => acts.remove(line.id)}>
                Take off
              </Button>
            </li>
          ))}
        </ul>
      )}
      <footer className="tree-foot">
        {row ? (
          <p className="tree-why" title={row.brief_why}>
            <b>{row.brief_title}.</b> {row.brief_sentence} {row.brief_why}
          </p>
        ) : (
          <p className="tree-why">Nothing is set out to be pressed yet. Say where this mix is going.</p>
        )}
        <span className="tree-acts">
          {row && (
            <>
              <Button
                size="small"
                type="text"
                aria-label="Delivery up"
                onClick={() => acts.move(row.line_id, -1)}
              >
                ↑
              </Button>
              <Button
                size="small"
                type="text"
                aria-label="Delivery down"
                onClick={() => acts.move(row.line_id, 1)}
              >
                ↓
              </Button>
              <Button size="small" type="text" onClick={() => acts.copy(row.line_id)}>
                Copy
              </Button>
              <Button size="small" type="text" onClick={() => acts.switchOn(row.line_id, false)}>
                Off
              </Button>
              <Button size="small" type="text" onClick={() => acts.remove(row.line_id)}>
                Take off
              </Button>
            </>
          )}
          <Button size="small" type="primary" onClick={acts.add} aria-keyshortcuts="d">
            Add delivery
          </Button>
        </span>
      </footer>
    </div>
  );
}

const ABOUT = { exact: "", bound: "≤ ", "bit rate": "≈ ", trial: "≈ " };

function CellText({ station, row, mix }: { station: Station; row: Row | undefined; mix: Mix }) {
  if (station.kind === "name" && row) {
    return (
      <>
        <VerdictMark verdict={row.verdict} />
        <span>
          <b title={row.file_name}>{row.file_name.replace(/^.*\//, "…/")}</b>
          <small>
            {row.verdict} · {ABOUT[row.size.basis]}
            {bytes(row.size.middle)} · {row.brief_title}
            {row.bit_exact ? " · bit-exact" : ""}
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
