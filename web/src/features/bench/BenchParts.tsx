import { type ReactNode, useRef } from "react";
import { Group, Panel, Separator, useDefaultLayout } from "react-resizable-panels";

interface BenchPartsProps {
  wave: ReactNode;
  ticket: ReactNode;
  station: ReactNode;
  /** So many files are on the ticket. */
  files: number;
}

const WAVE_PX = 352;
const HEADS_PX = 140;
const [TREE_PX, ROW_PX, LEAST_TREE_PX] = [112, 58, 300];

/** Default height of the waveform: the room that the ticket leaves. */
export function waveHeight(windowPx: number, files: number): number {
  const room = windowPx - HEADS_PX;
  const ticket = Math.max(LEAST_TREE_PX, TREE_PX + files * ROW_PX);
  return Math.round(Math.max(WAVE_PX, Math.min(0.6 * room, room - ticket)));
}

/** The three parts of the bench; the lines between them can be moved, by pointer or by key, and stay where they were put. */
export function BenchParts({ wave, ticket, station, files }: BenchPartsProps) {
  const rows = useDefaultLayout({ id: "ripe-press-bench", storage: localStorage });
  const columns = useDefaultLayout({ id: "ripe-press-ticket", storage: localStorage });
  // Kept only after the user moved it: otherwise it follows the window and the ticket, the next
  // time too.
  const moved = useRef(false);
  const take = () => {
    moved.current = true;
  };
  return (
    <Group
      orientation="vertical"
      className="bench-parts"
      defaultLayout={rows.defaultLayout}
      onLayoutChanged={(...sizes) => moved.current && rows.onLayoutChanged(...sizes)}
    >
      <Panel
        id="wave-part"
        defaultSize={`${waveHeight(window.innerHeight, files)}px`}
        minSize="240px"
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
      <Panel id="ticket-part" minSize="190px">
        <Group
          orientation="horizontal"
          defaultLayout={columns.defaultLayout}
          onLayoutChanged={columns.onLayoutChanged}
        >
          <Panel id="tree-part" minSize="380px">
            {ticket}
          </Panel>
          <Separator className="divider" aria-label="Width of the station" />
          <Panel
            id="station-part"
            defaultSize={window.innerWidth < 1100 ? "262px" : window.innerWidth < 1600 ? "306px" : "390px"}
            minSize="240px"
            groupResizeBehavior="preserve-pixel-size"
          >
            {station}
          </Panel>
        </Group>
      </Panel>
    </Group>
  );
}
