import { Button, Popover, Segmented } from "antd";
import { type ReactNode, useEffect, useLayoutEffect, useRef } from "react";
import type { Mix, Row } from "../../../api/client";
import { Figures } from "../../../shared/text/Figures";
import { bytes, clock, counted } from "../../../shared/text/format";
import { useFormats } from "../../../shared/text/formats";
import { VERDICTS } from "../../../shared/text/words";
import { settledOf, sharing } from "../model";
import { useBench, useSession, useSetOut } from "../session";
import type { Listening } from "../sound/useListening";
import { PanelFindings } from "./PanelFindings";
import { SaveAsBrief } from "./SaveAsBrief";
import { STATIONS } from "./stations";
import type { PanelProps, StationUi } from "./stations/panel";
import { Words } from "./Words";

interface DeliveryPanelProps extends Omit<PanelProps, "line" | "into"> {
  readonly rows: readonly Row[];
  readonly kind: string;
  readonly listening: Listening;
  /** What it waits for, while it is measured. */
  readonly waits: string | undefined;
}

/** Everything about one file: what it is, its whole path with one station unfolded, its findings with what mends them. */
export function DeliveryPanel({ rows, kind, listening, waits, ...about }: DeliveryPanelProps) {
  const { row } = about;
  const { ticket } = useSetOut();
  const line = ticket.find((one) => one.id === row.line_id);
  const alone = useBench((view) => view.alone);
  const formats = useFormats();
  if (!line) return null;
  const onRange = ticket.filter((one) => one.on && one.range_id === row.range_id).map((one) => one.id);
  const shared = kind === "range" ? onRange : sharing(rows, row, kind);
  const into = alone ? [line.id] : shared;
  return (
    <>
      <PanelHead row={row} rows={rows} mix={about.mix} listening={listening} />
      <ol className="station-path" aria-label="Path of the signal">
        {Object.entries(STATIONS).map(([one, ui]) => {
          const station = row.stations.find(({ kind: name }) => name === one);
          const now = { ...row, settled: settledOf(row, line) };
          return (
            <PathLine
              key={one}
              row={row}
              kind={one}
              title={ui.title}
              said={ui.said(now, station, formats.of(row.settled.container))}
              open={one === kind}
            >
              {one === kind && (
                <>
                  <Steady key={row.id}>{station?.sentence ?? ui.idle}</Steady>
                  <Scope kind={kind} row={row} shared={shared} rows={rows} />
                  <StationBody
                    key={`${row.id} ${kind}`}
                    ui={ui}
                    about={{ ...about, line, into }}
                    kind={kind}
                  />
                </>
              )}
            </PathLine>
          );
        })}
      </ol>
      {waits && (
        <p className="panel-waits" role="status">
          {waits}
        </p>
      )}
      <PanelFindings row={row} />
    </>
  );
}

function StationBody({ ui, about, kind }: { ui: StationUi; about: PanelProps; kind: string }) {
  const { row, mix } = about;
  const station = row.stations.find((one) => one.kind === kind);
  // Figures that the sentence has are not repeated.
  const figures = station?.figures.filter(({ value }) => !station.sentence.includes(value)) ?? [];
  return (
    <>
      <ui.Panel {...about} />
      {figures.length > 0 && <Figures lines={figures.map(({ name, value }) => [name, value] as const)} />}
      <Words mix={mix} row={row} kind={kind} />
    </>
  );
}

interface PanelHeadProps {
  row: Row;
  rows: readonly Row[];
  mix: Mix;
  listening: Listening;
}

function PanelHead({ row, rows, mix, listening }: PanelHeadProps) {
  const session = useSession();
  const range = row.stations.find((one) => one.kind === "range");
  const about = [bytes(row.size.middle), range?.detail || clock(row.heard_end_frame, mix.rate_hz)];
  return (
    <header className="panel-head">
      <p className="panel-where">
        Delivery {rows.indexOf(row) + 1} of {rows.length} · for{" "}
        <Popover
          trigger="click"
          placement="bottomLeft"
          content={
            <div className="brief-words">
              <p>
                {row.brief_sentence} {row.brief_why}
              </p>
              <SaveAsBrief mix={mix} row={row} />
            </div>
          }
        >
          <button type="button" className="plain-button">
            {row.brief_title}
          </button>
        </Popover>
        <span className="panel-moves">
          <Button
            size="small"
            type="text"
            aria-label="Move delivery up"
            title="Move up"
            onClick={() => session.moveLine(row.line_id, -1)}
          >
            ↑
          </Button>
          <Button
            size="small"
            type="text"
            aria-label="Move delivery down"
            title="Move down"
            onClick={() => session.moveLine(row.line_id, 1)}
          >
            ↓
          </Button>
        </span>
      </p>
      <h2>{row.file_name}</h2>
      <p>
        {about.join(" · ")} · <b className={`verdict-${row.verdict}`}>{VERDICTS[row.verdict]}</b>
        {row.bit_exact && " · bit-exact"}
      </p>
      <div className="panel-acts">
        <Button size="small" onClick={() => session.copyLine(row.line_id)}>
          Duplicate
        </Button>
        <Button size="small" onClick={() => session.switchLine(row.line_id, false)}>
          Disable
        </Button>
        <Button size="small" onClick={() => session.removeLine(row.line_id)}>
          Remove
        </Button>
        <Button
          size="small"
          aria-pressed={listening.pressed}
          title="Play with the channels and level of this delivery"
          onClick={() => listening.turnPressed(!listening.pressed)}
        >
          Play as pressed
        </Button>
      </div>
    </header>
  );
}

interface PathLineProps {
  row: Row;
  kind: string;
  title: string;
  said: readonly [string, string];
  open: boolean;
  children: React.ReactNode;
}

function PathLine({ row, kind, title, said: [value, note], open, children }: PathLineProps) {
  const session = useSession();
  const line = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (open) line.current?.scrollIntoView({ block: "nearest" });
  }, [open]);
  return (
    <li className={open ? "path-open" : ""} ref={line}>
      <button
        type="button"
        className="path-line"
        aria-expanded={open}
        onClick={() => session.chooseStation(row, kind)}
      >
        <span className="path-title">{title}</span>
        <b>{value}</b>
        <small className="path-note">{note}</small>
      </button>
      {open && <div className="path-body">{children}</div>}
    </li>
  );
}

/** A sentence whose room does not shrink: the controls below it stay where they are while values change. */
function Steady({ children }: { children: ReactNode }) {
  const text = useRef<HTMLParagraphElement>(null);
  useLayoutEffect(() => {
    const { current } = text;
    if (current) current.style.minHeight = `${current.offsetHeight}px`;
  });
  return <p ref={text}>{children}</p>;
}

interface ScopeProps {
  kind: string;
  row: Row;
  rows: readonly Row[];
  shared: readonly string[];
}

/** Which deliveries a choice at a shared station applies to; what belongs to the mix or its range is always shared. */
function Scope({ kind, row, rows, shared }: ScopeProps) {
  const session = useSession();
  const alone = useBench((view) => view.alone);
  if (shared.length < 2 || kind === "source") return null;
  const titles = [
    ...new Set(rows.filter((one) => shared.includes(one.line_id)).map((one) => one.brief_title)),
  ];
  const words = `Shared by ${counted(shared.length, "delivery", "deliveries")}`;
  if (kind === "range") {
    return (
      <fieldset className="scope" aria-label={words} title={titles.join(" · ")}>
        <span>{words}.</span>
        <Button size="small" onClick={() => session.ownRange(row.line_id)}>
          Copy for this delivery
        </Button>
      </fieldset>
    );
  }
  return (
    <fieldset className="scope" aria-label={words} title={titles.join(" · ")}>
      <span>{words}.</span>
      <Segmented
        size="small"
        aria-label="Change for"
        value={alone}
        options={[
          { value: false, label: `Change all ${shared.length}` },
          { value: true, label: `Only ${row.brief_title}` },
        ]}
        onChange={(only) => session.show({ alone: only })}
      />
    </fieldset>
  );
}
