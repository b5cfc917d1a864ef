import { Button } from "antd";
import {
  type CSSProperties,
  type KeyboardEvent,
  type RefObject,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
import type { Mix, Refused, Row } from "../../../api/client";
import { useCommands } from "../../../shared/commands/commands";
import { useRemembered } from "../../../shared/remembered";
import { rowOf, useBench, useSession, useSetOut } from "../session";
import { TreeGroupHead } from "./TreeGroupHead";
import { CellText, TreeFoot, TreeRest } from "./TreeParts";
import { MANY } from "./treeGroups";
import { columnsOf, layOut, linesIn, ROOMY, repeated, TIGHT, widthsOf } from "./treeLayout";
import { useFolding } from "./useFolding";

interface TicketTreeProps {
  mix: Mix;
  rows: readonly Row[];
  refused: readonly Refused[];
}

const nodeIn = (row: Row | undefined, kind: string) => row?.stations.find((one) => one.kind === kind)?.node;

/** Lines between stations, redrawn when the tree or its size changes. */
function useLines(tree: RefObject<HTMLElement | null>, joints: string): readonly string[] {
  const [lines, setLines] = useState<readonly string[]>([]);
  useLayoutEffect(() => {
    const box = tree.current;
    if (!box) return;
    const draw = () => setLines(linesIn(box, joints));
    draw();
    const observer = new ResizeObserver(draw);
    observer.observe(box);
    return () => observer.disconnect();
  }, [tree, joints]);
  return lines;
}

/** Where an arrow leads from a station of a row: along its path, or to the next row that has another of its kind. */
function stepFrom(rows: readonly Row[], from: Row, kind: string, key: string): [Row, string] | null {
  const down = key === "ArrowDown" ? 1 : key === "ArrowUp" ? -1 : 0;
  const along = key === "ArrowRight" ? 1 : key === "ArrowLeft" ? -1 : 0;
  if (down) {
    // A shared station is one cell.
    let at = rows.indexOf(from) + down;
    const shared = nodeIn(from, kind);
    const skipped = (row: Row) => nodeIn(row, kind) === undefined || nodeIn(row, kind) === shared;
    for (let row = rows[at]; row && skipped(row); row = rows[at]) at += down;
    const row = rows[at];
    return [row ?? from, kind];
  }
  if (!along) return null;
  const path = from.stations;
  const at = path.findIndex((one) => one.kind === kind) + along;
  return [from, path[Math.max(0, Math.min(path.length - 1, at))]?.kind ?? kind];
}

/** The ticket as the tree it is, read from left to right; what rows share is drawn once. */
export function TicketTree({ mix, rows, refused }: TicketTreeProps) {
  const session = useSession();
  const tree = useRef<HTMLFieldSetElement>(null);
  const station = useBench((view) => view.station);
  const off = useSetOut().ticket.filter((line) => !line.on);
  const row = rowOf(rows, station);
  const fold = useFolding(rows, row);
  const { lines: drawn, shown } = fold;
  const columns = columnsOf(rows);
  const kinds = columns.map((column): string => column.kind);
  const cells = layOut(shown, kinds);
  const shrunk = repeated(layOut(rows, kinds), kinds);
  const [density, setDensity] = useRemembered<"auto" | "compact" | "roomy">("tree-density", "auto");
  const compact = density === "compact" || (density === "auto" && rows.length >= MANY);
  useCommands([
    { name: "Compact view on/off", run: () => setDensity(compact ? "roomy" : "compact") },
    ...(fold.groups.length ? [{ name: "Collapse or expand ranges", run: fold.turnAll }] : []),
  ]);
  const chosenNode = nodeIn(row, station.kind);
  const paths = useLines(tree, cells.map((cell) => `${cell.parent}>${cell.station.node}`).join(" "));

  // The selected file is visible, however it was selected.
  useEffect(() => {
    tree.current?.querySelector(`[data-node="${chosenNode}"]`)?.scrollIntoView({ block: "nearest" });
  }, [chosenNode]);

  const onKey = (event: KeyboardEvent) => {
    const to = row && stepFrom(shown, row, station.kind, event.key);
    if (!to) return;
    event.preventDefault();
    session.chooseStation(...to);
    tree.current?.querySelector<HTMLElement>(`[data-node="${nodeIn(...to)}"]`)?.focus();
  };
  const widths = {
    "--columns": widthsOf(columns, cells, shrunk, mix.title, ROOMY),
    "--columns-tight": widthsOf(columns, cells, shrunk, mix.title, TIGHT),
  } as CSSProperties;
  return (
    <div className="tree">
      <div className="tree-heads" aria-hidden="true" style={widths}>
        {columns.map((column) => (
          <span key={column.kind}>{column.title}</span>
        ))}
      </div>
      <fieldset
        className={`tree-rows${rows.length > 1 ? " tree-many" : ""}${compact ? " tree-compact" : ""}`}
        style={widths}
        ref={tree}
        aria-label="The ticket: the path of the signal to every file"
        data-arrows
        onKeyDown={onKey}
      >
        <svg className="tree-lines" aria-hidden="true">
          {paths.map((line) => (
            <path key={line} d={line} />
          ))}
        </svg>
        {drawn.map((line, at) =>
          line.head ? (
            <TreeGroupHead
              key={line.head.key}
              group={line.head}
              folded={line.folded}
              at={at + 1}
              turn={fold.turn}
            />
          ) : null,
        )}
        {cells.map((cell) => {
          const chosen = cell.station.node === chosenNode;
          const own = shown[cell.row];
          const { kind, idle, node } = cell.station;
          return (
            <div
              key={node}
              className="node"
              style={{ gridRow: fold.placeOf(cell.row), gridColumn: cell.column + 1 }}
            >
              <button
                type="button"
                data-node={node}
                className={`cell${idle ? " cell-idle" : ""}${kind === "name" ? " cell-file" : ""}`}
                aria-pressed={chosen}
                tabIndex={chosen ? 0 : -1}
                onClick={() => own && session.chooseStation(own, kind)}
              >
                <CellText
                  station={cell.station}
                  row={own}
                  mix={mix}
                  shrunk={shrunk.has(columns[cell.column]?.kind ?? "")}
                />
              </button>
            </div>
          );
        })}
      </fieldset>
      <TreeRest refused={refused} off={off} />
      <TreeFoot row={row}>
        {fold.groups.length > 0 && (
          <Button size="small" type="text" onClick={fold.turnAll}>
            {fold.allFolded ? "Expand all" : "Collapse all"}
          </Button>
        )}
        {rows.length > 3 && (
          <Button
            size="small"
            type="text"
            aria-pressed={compact}
            onClick={() => setDensity(compact ? "roomy" : "compact")}
          >
            Compact
          </Button>
        )}
      </TreeFoot>
    </div>
  );
}
