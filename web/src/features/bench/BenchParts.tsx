import type { ReactNode } from "react";
import { Group, Panel, Separator, useDefaultLayout } from "react-resizable-panels";

interface BenchPartsProps {
  wave: ReactNode;
  ticket: ReactNode;
  station: ReactNode;
}

/** The three parts of the bench; the lines between them can be moved, by pointer or by key, and stay where they were put. */
export function BenchParts({ wave, ticket, station }: BenchPartsProps) {
  const rows = useDefaultLayout({ id: "ripe-press-bench", storage: localStorage });
  const columns = useDefaultLayout({ id: "ripe-press-ticket", storage: localStorage });
  return (
    <Group
      orientation="vertical"
      className="bench-parts"
      defaultLayout={rows.defaultLayout}
      onLayoutChanged={rows.onLayoutChanged}
    >
      <Panel
        id="wave-part"
        defaultSize="352px"
        minSize="240px"
        groupResizeBehavior="preserve-pixel-size"
        style={{ overflow: "hidden" }}
      >
        {wave}
      </Panel>
      <Separator className="divider" aria-label="Height of the waveform" />
      <Panel id="ticket-part" minSize="190px" style={{ overflow: "hidden" }}>
        <Group
          orientation="horizontal"
          defaultLayout={columns.defaultLayout}
          onLayoutChanged={columns.onLayoutChanged}
        >
          <Panel id="tree-part" minSize="380px" style={{ overflow: "hidden" }}>
            {ticket}
          </Panel>
          <Separator className="divider" aria-label="Width of the station" />
          <Panel
            id="station-part"
            defaultSize={window.innerWidth < 1100 ? "262px" : "306px"}
            minSize="240px"
            groupResizeBehavior="preserve-pixel-size"
            style={{ overflow: "hidden" }}
          >
            {station}
          </Panel>
        </Group>
      </Panel>
    </Group>
  );
}
