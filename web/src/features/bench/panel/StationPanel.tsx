import { Figures } from "../../../shared/text/Figures";
import { useSetOut } from "../session";
import { STATIONS } from "./stations";
import type { PanelProps } from "./stations/panel";
import { Words } from "./Words";

/** The chosen station: what it is, what it does to this mix, what can be chosen at it, its figures. */
export function StationPanel({ kind, ...about }: Omit<PanelProps, "line"> & { kind: string }) {
  const { row } = about;
  const line = useSetOut().ticket.find((one) => one.id === row.line_id);
  const station = row.stations.find((one) => one.kind === kind) ?? row.stations.at(-1);
  const ui = station && STATIONS[station.kind];
  if (!station || !ui) return null;
  return (
    <>
      <p className="panel-where">
        {row.brief_title} · {ui.title}
      </p>
      <h2>{ui.heading ?? station.label}</h2>
      <p>{station.sentence}</p>
      <Words key={row.id + station.kind} mix={about.mix} row={row} kind={station.kind} />
      {line && <ui.Panel {...about} line={line} />}
      {station.figures.length > 0 && (
        <Figures lines={station.figures.map((figure) => [figure.name, figure.value] as const)} />
      )}
    </>
  );
}
