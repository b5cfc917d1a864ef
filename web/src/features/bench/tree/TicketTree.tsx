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
import { nodeIn } from "../model";
import { rowOf, useBench, useSession, useSetOut } from "../session";
import { SetChoice } from "../ticket/SetChoice";
import { TreeGroupHead } from "./TreeGroupHead";
import { CellText, TreeRest } from "./TreeParts";
import {
  columnsOf,
  type Density,
  layOut,
  linesIn,
  ROOMY,
  repeated,
  rowHeight,
  TIGHT,
  widthsOf,
} from "./treeLayout";
import { useFolding } from "./useFolding";

interface TicketTreeProps {
  mix: Mix;
  rows: readonly Row[];
  refused: readonly Refused[];
}

/** Lines between stations, redrawn when the tree or its size changes. */
function useLines(tree: RefObject<HTMLElement | null>, joints: string): readonly string[] {
  const [lines, setLines] = useState<readonly string[]>([]);
  useLayoutEffect(() => {
    const box = tree.current;
    if (!box) return;
    const draw = () => setLines(linesIn(box, joints));
    draw();
    // A cell grows with its words, and the tree with it: neither changes the size of the other's box.
    const observer = new ResizeObserver(draw);
    for (const one of [box, ...box.querySelectorAll("[data-node]")]) observer.observe(one);
    return () => observer.disconnect();
  }, [tree, joints]);
  return lines;
}

const PADDING_PX = 8;
const TIGHT_PX = 700;

/** The room that the rows of the tree have. */
function useRoom(tree: RefObject<HTMLElement | null>): { width: number; height: number } {
  const [room, setRoom] = useState({ width: 900, height: 0 });
  useLayoutEffect(() => {
    const box = tree.current;
    if (!box) return;
    const take = () => setRoom({ width: box.clientWidth, height: box.clientHeight });
    const observer = new ResizeObserver(take);
    take();
    observer.observe(box);
    return () => observer.disconnect();
  }, [tree]);
  return room;
}

/** Where an arrow leads from a station of a row: along its path, or to the next row that has another of its kind. */
function stepFrom(
  rows: readonly Row[],
  kinds: readonly string[],
  from: Row,
  kind: string,
  key: string,
): [Row, string] | null {
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
  const path = from.stations.filter((one) => kinds.includes(one.kind));
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
  const room = useRoom(tree);
  const tight = room.width < TIGHT_PX;
  const columns = columnsOf(rows, tight);
  const kinds = columns.map((column): string => column.kind);
  const cells = layOut(shown, kinds);
  const shrunk = repeated(layOut(rows, kinds), kinds);
  const [density, setDensity] = useRemembered<Density>("tree-density", "auto");
  const { px, compact } = rowHeight(room.height - PADDING_PX, drawn.length, density);
  useCommands([
    { name: "Compact view on/off", run: () => setDensity(compact ? "roomy" : "compact") },
    ...(fold.groups.length ? [{ name: "Collapse or expand ranges", run: fold.turnAll }] : []),
  ]);
  // A station of the panel alone is shown as chosen at the file.
  const onTree = cells.some((cell) => cell.station.node === nodeIn(row, station.kind));
  const shownKind = onTree ? station.kind : "name";
  const chosenNode = nodeIn(row, shownKind);
  const paths = useLines(tree, cells.map((cell) => `${cell.parent}>${cell.station.node}`).join(" "));

  // The selected file is visible, however it was selected.
  useEffect(() => {
    tree.current?.querySelector(`[data-node="${chosenNode}"]`)?.scrollIntoView({ block: "nearest" });
  }, [chosenNode]);

  const onKey = (event: KeyboardEvent) => {
    const node = event.target instanceof HTMLElement && Number(event.target.dataset.node);
    const at = cells.find((cell) => cell.station.node === node);
    const kind = at?.station.kind ?? shownKind;
    const from = at && nodeIn(row, kind) !== node ? shown[at.row] : row;
    const to = from && stepFrom(shown, kinds, from, kind, event.key);
    if (!to) return;
    event.preventDefault();
    session.chooseStation(...to);
    tree.current?.querySelector<HTMLElement>(`[data-node="${nodeIn(...to)}"]`)?.focus();
  };
  const widths = {
    "--columns": widthsOf(columns, cells, shrunk, mix.title, tight ? TIGHT : ROOMY),
    "--row": `${px}px`,
  } as CSSProperties;
  return (
    <div className={tight ? "tree tree-tight" : "tree"}>
      <div className="tree-top">
        <div className="tree-heads" aria-hidden="true" style={widths}>
          {columns.map((column) => (
            <span key={column.kind}>{column.title}</span>
          ))}
        </div>
        <span className="tree-acts">
          {fold.groups.length > 0 && (
            <Button
              size="small"
              aria-label={fold.allFolded ? "Expand all" : "Collapse all"}
              title={fold.allFolded ? "Expand all" : "Collapse all"}
              onClick={fold.turnAll}
            >
              {fold.allFolded ? "▸" : "▾"}
            </Button>
          )}
          {rows.length > 3 && (
            <Button
              size="small"
              aria-label="Compact"
              title="Compact rows"
              aria-pressed={compact}
              onClick={() => setDensity(compact ? "roomy" : "compact")}
            >
              ≡
            </Button>
          )}
          <SetChoice mix={mix} />
          <Button
            size="small"
            type="primary"
            onClick={() => session.show({ dialog: "add" })}
            aria-keyshortcuts="d"
          >
            Add delivery
          </Button>
        </span>
      </div>
      {!rows.length && !refused.length && (
        <p className="tree-empty">No deliveries yet. Add one to choose where this mix goes, or use a set.</p>
      )}
      <fieldset
        className={`tree-rows${compact ? " tree-compact" : ""}`}
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
                aria-current={kind === "name" && own?.id === row?.id ? "true" : undefined}
                tabIndex={chosen ? 0 : -1}
                // At a shared station the selected delivery stays selected.
                onClick={() => {
                  const to = nodeIn(row, kind) === node ? row : own;
                  if (to) session.chooseStation(to, kind);
                }}
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
    </div>
  );
}
