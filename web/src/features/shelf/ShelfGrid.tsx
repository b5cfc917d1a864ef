import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useEffect, useLayoutEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { FileChange, ShelfMix } from "../../api/client";
import type { Order } from "./arrange";
import { MixCard } from "./cards";
import { ListHead, MixRow } from "./MixRow";
import type { View } from "./ShelfTools";

const CARD = { width: 360, gap: 14, height: 226 };
const ROW_HEIGHT = 41;

interface ShelfGridProps {
  mixes: readonly ShelfMix[];
  view: View;
  order: Order;
  setOrder: (order: Order) => void;
  chosen: ReadonlySet<number>;
  choose: (id: number, on: boolean, all: boolean) => void;
  show: (id: number, what: "versions" | "off") => void;
  changes: readonly FileChange[];
  /** Titles of all mixes by their numbers, whether they are shown or not. */
  titles: ReadonlyMap<number, string>;
}

/** The mixes as cards or as a dense list. Only visible rows are drawn: a thousand scroll like ten. */
export function ShelfGrid(props: ShelfGridProps) {
  const { mixes, view, order, setOrder, chosen, choose, show, changes, titles } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const columns = useColumns(scroller, view);
  const rows = Math.ceil(mixes.length / columns);
  const virtual = useVirtualizer({
    count: rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => (view === "cards" ? CARD.height : ROW_HEIGHT),
    gap: view === "cards" ? CARD.gap : 0,
    overscan: view === "cards" ? 2 : 8,
    getItemKey: (index) => `${view} ${columns} ${mixes[index * columns]?.id}`,
  });
  const { at, keys, focusIn } = useArrows(scroller, mixes, columns, choose, chosen, (place) =>
    virtual.scrollToIndex(Math.floor(place / columns)),
  );
  const items = virtual.getVirtualItems();
  const before = items[0]?.start ?? 0;
  const after = virtual.getTotalSize() - (items.at(-1)?.end ?? 0);
  const changed = new Map(changes.map((one) => [one.mix_id, one]));
  const shown = items.flatMap((item) =>
    mixes.slice(item.index * columns, (item.index + 1) * columns).map((mix, column) => ({
      mix,
      row: item.index,
      // One item of each row gives its height.
      ref: column === 0 ? virtual.measureElement : nobody,
      chosen: chosen.has(mix.id),
      choose,
      show,
      change: changed.get(mix.id),
      likely: mix.likely_of === null ? undefined : titles.get(mix.likely_of),
      current: item.index * columns + column === at,
    })),
  );
  const space = { paddingTop: before, paddingBottom: after };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: arrows lead from mix to mix, whose links and boxes are focused
    <div
      className={`shelf-scroller shelf-${view}`}
      ref={scroller}
      onKeyDown={keys}
      onFocus={focusIn}
      data-arrows
    >
      {view === "cards" ? (
        <ul
          className="cards"
          aria-label="Mixes"
          style={{ ...space, gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}
        >
          {shown.map((one) => (
            <MixCard key={one.mix.id} {...one} />
          ))}
        </ul>
      ) : (
        <table aria-label="Mixes" aria-rowcount={mixes.length + 1} className="mix-list">
          <thead className="list-head-group">
            <ListHead order={order} setOrder={setOrder} />
          </thead>
          <tbody style={space}>
            {shown.map((one) => (
              <MixRow key={one.mix.id} {...one} />
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

const nobody = () => undefined;

function useColumns(scroller: React.RefObject<HTMLDivElement | null>, view: View): number {
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setWidth(element.clientWidth));
    watch.observe(element);
    setWidth(element.clientWidth);
    return () => watch.disconnect();
  }, [scroller]);
  return view === "list" ? 1 : Math.max(1, Math.floor((width + CARD.gap) / (CARD.width + CARD.gap)));
}

/** Arrows, Home, End and Page lead from mix to mix, Space chooses, Enter opens; Tab leads to the one where one was. */
function useArrows(
  scroller: React.RefObject<HTMLDivElement | null>,
  mixes: readonly ShelfMix[],
  columns: number,
  choose: (id: number, on: boolean, all: boolean) => void,
  chosen: ReadonlySet<number>,
  bring: (place: number) => void,
) {
  const [current, setCurrent] = useState<number | null>(null);
  const [wanted, setWanted] = useState<number | null>(null);
  const go = useNavigate();
  const found = mixes.findIndex((mix) => mix.id === current);
  const last = useRef(0);
  const at = found < 0 ? Math.max(0, Math.min(last.current, mixes.length - 1)) : found;
  last.current = at;
  // If the focused item was removed, the one in its place gets the focus.
  useEffect(() => {
    const lost = current !== null && found < 0 && document.activeElement === document.body;
    const heir = mixes[at];
    if (!lost || !heir) return;
    setCurrent(heir.id);
    setWanted(heir.id);
  });
  // An item out of sight is drawn first, then focused.
  useEffect(() => {
    if (wanted === null) return;
    const link = scroller.current?.querySelector<HTMLElement>(`[data-mix="${wanted}"] a[href^="/bench"]`);
    if (!link) return;
    link.focus({ preventScroll: true });
    setWanted(null);
  });
  const keys = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey || !(event.target instanceof HTMLElement)) return;
    const inMix = event.target.closest("[data-mix]");
    if (!inMix) return;
    const mix = mixes[at];
    if (mix && event.target.matches('a[href^="/bench"]')) {
      if (event.key === " ") {
        event.preventDefault();
        choose(mix.id, !chosen.has(mix.id), event.shiftKey);
        return;
      }
      if (event.key === "Enter") {
        event.preventDefault();
        go(`/bench/${mix.id}`);
        return;
      }
    }
    const step = STEPS(columns, mixes.length)[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const place = Math.min(mixes.length - 1, Math.max(0, at + step));
    const next = mixes[place];
    if (!next) return;
    setCurrent(next.id);
    setWanted(next.id);
    bring(place);
  };
  const focusIn = (event: React.FocusEvent) => {
    const inMix = event.target.closest<HTMLElement>("[data-mix]");
    if (inMix) setCurrent(Number(inMix.dataset.mix));
  };
  return { at, keys, focusIn };
}

const STEPS = (columns: number, count: number): Readonly<Record<string, number>> => ({
  ArrowDown: columns,
  ArrowUp: -columns,
  ...(columns > 1 ? { ArrowRight: 1, ArrowLeft: -1 } : {}),
  PageDown: 8 * columns,
  PageUp: -8 * columns,
  Home: -count,
  End: count,
});
