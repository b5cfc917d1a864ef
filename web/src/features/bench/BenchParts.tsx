import { type ReactNode, useEffect, useRef } from "react";
import { Group, Panel, Separator, useDefaultLayout, usePanelRef } from "react-resizable-panels";

interface BenchPartsProps {
  head: ReactNode;
  wave: ReactNode;
  ticket: ReactNode;
  station: ReactNode;
  /** So many files are on the ticket. */
  files: number;
  /** So many ranges have a place above the waveform. */
  ranges: number;
}

const [WAVE_PX, RANGES_PX] = [235, 28];
/** Head of the page, bar of the press, gaps; head and padding of the tree. */
const [AROUND_PX, TREE_PX, ROW_PX, LEAST_TREE_PX] = [138, 48, 46, 200];

/** Default height of the waveform: the room that the ticket leaves. */
export function waveHeight(windowPx: number, files: number, ranges: number): number {
  const least = WAVE_PX + (ranges > 1 ? RANGES_PX : 0);
  const room = windowPx - AROUND_PX;
  const ticket = Math.max(LEAST_TREE_PX, TREE_PX + files * ROW_PX);
  return Math.round(Math.max(least, Math.min(0.6 * room, room - ticket)));
}

/** Waveform above tree, and the panel at the right over the full height; the lines between them can be moved, by pointer or by key, and stay where they were put. */
export function BenchParts({ head, wave, ticket, station, files, ranges }: BenchPartsProps) {
  const rows = useDefaultLayout({ id: "ripe-press-wave", storage: localStorage });
  const columns = useDefaultLayout({ id: "ripe-press-delivery", storage: localStorage });
  // Kept only after the user moved it: otherwise it follows the window and the ticket, the next
  // time too.
  const moved = useRef(rows.defaultLayout !== undefined);
  const top = usePanelRef();
  const take = () => {
    moved.current = true;
  };
  useEffect(() => {
    if (!moved.current) top.current?.resize(`${waveHeight(window.innerHeight, files, ranges)}px`);
  }, [files, ranges, top]);
  return (
    <Group
      orientation="horizontal"
      className="bench-parts"
      defaultLayout={columns.defaultLayout}
      onLayoutChanged={columns.onLayoutChanged}
    >
      <Panel id="left-part" minSize="420px">
        <div className="bench-left">
          {head}
          <Group
            orientation="vertical"
            defaultLayout={rows.defaultLayout}
            onLayoutChanged={(...sizes) => moved.current && rows.onLayoutChanged(...sizes)}
          >
            <Panel
              id="wave-part"
              panelRef={top}
              defaultSize={`${waveHeight(window.innerHeight, files, ranges)}px`}
              minSize="190px"
              groupResizeBehavior="preserve-pixel-size"
            >
              {wave}
            </Panel>
            <Separator
              className="divider"
              aria-label="Height of the waveform"
              onPointerDown={take}
              onKeyDown={take}
            />
            <Panel id="tree-part" minSize="120px">
              {ticket}
            </Panel>
          </Group>
        </div>
      </Panel>
      <Separator className="divider" aria-label="Width of the delivery" />
      <Panel
        id="delivery-part"
        defaultSize={window.innerWidth < 1100 ? "276px" : window.innerWidth < 1600 ? "326px" : "400px"}
        minSize="260px"
        groupResizeBehavior="preserve-pixel-size"
      >
        {station}
      </Panel>
    </Group>
  );
}
