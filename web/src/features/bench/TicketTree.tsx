import { type KeyboardEvent, useRef } from "react";
import type { Mix, Row, Station } from "../../api/client";
import { bytes } from "../../shared/format";
import { VerdictMark } from "../../shared/Verdict";

const COLUMNS: Record<string, { title: string; width: string }> = {
  source: { title: "Mix", width: "minmax(80px, 1.35fr)" },
  range: { title: "Range", width: "minmax(66px, 1fr)" },
  rate: { title: "Rate", width: "minmax(66px, 1fr)" },
  channels: { title: "Channels", width: "minmax(66px, 0.9fr)" },
  depth: { title: "Depth", width: "minmax(66px, 1fr)" },
  codec: { title: "Container", width: "minmax(74px, 1fr)" },
  name: { title: "File", width: "minmax(150px, 2.2fr)" },
};

interface TicketTreeProps {
  mix: Mix;
  row: Row;
  chosen: number;
  choose: (index: number) => void;
}

/** The path of a delivery, read from left to right; stations that change nothing are quiet. */
export function TicketTree({ mix, row, chosen, choose }: TicketTreeProps) {
  const list = useRef<HTMLOListElement>(null);
  const onKey = (event: KeyboardEvent) => {
    const step = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
    if (!step) return;
    event.preventDefault();
    const next = Math.max(0, Math.min(row.stations.length - 1, chosen + step));
    choose(next);
    list.current?.querySelectorAll("button")[next]?.focus();
  };
  const columns = { gridTemplateColumns: row.stations.map((one) => COLUMNS[one.kind]?.width).join(" ") };
  return (
    <div className="tree">
      <div className="tree-heads" aria-hidden="true" style={columns}>
        {row.stations.map((station) => (
          <span key={station.kind}>{COLUMNS[station.kind]?.title}</span>
        ))}
      </div>
      <ol
        className="tree-row"
        style={columns}
        ref={list}
        aria-label={`${row.brief_title}: the path of the signal`}
        data-arrows
        onKeyDown={onKey}
      >
        {row.stations.map((station, index) => (
          <li key={station.kind}>
            <button
              type="button"
              className={`cell${station.idle ? " cell-idle" : ""}${station.kind === "name" ? " cell-file" : ""}`}
              aria-pressed={index === chosen}
              tabIndex={index === chosen ? 0 : -1}
              onClick={() => choose(index)}
            >
              <Cell station={station} row={row} mix={mix} />
            </button>
          </li>
        ))}
      </ol>
      <p className="tree-why">
        <b>{row.brief_title}.</b> {row.brief_sentence} {row.brief_why}
      </p>
    </div>
  );
}

function Cell({ station, row, mix }: { station: Station; row: Row; mix: Mix }) {
  if (station.kind === "name") {
    return (
      <>
        <VerdictMark verdict={row.verdict} />
        <span>
          <b>{row.file_name}</b>
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
