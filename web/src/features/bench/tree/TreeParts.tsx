import { Button } from "antd";
import type { Mix, Refused, Row, Station, TicketLine } from "../../../api/client";
import { bytes, counted } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { useSession } from "../session";

const ABOUT = { exact: "", bound: "≤ ", "bit rate": "≈ ", trial: "≈ " };

/** The text of a cell: name and verdict of a file, or a station in two short lines. */
export function CellText({
  station,
  row,
  mix,
  shrunk,
}: {
  station: Station;
  row: Row | undefined;
  mix: Mix;
  /** Every row says the same here: a mark stands for it, and the words are behind it. */
  shrunk: boolean;
}) {
  if (shrunk) {
    return (
      <span title={`${station.label} ${station.detail}`.trim()}>
        <b>{station.label}</b>
        {station.detail && <span className="unseen"> {station.detail}</span>}
      </span>
    );
  }
  if (station.kind === "name" && row) {
    return (
      <>
        <VerdictMark verdict={row.verdict} />
        <span>
          <b title={row.file_name}>{row.file_name.replace(/^.*\//, "…/")}</b>
          <small>
            {row.brief_title} · {ABOUT[row.size.basis]}
            {bytes(row.size.middle)}
          </small>
        </span>
      </>
    );
  }
  const source = station.kind === "source";
  return (
    <>
      {source && row && row.joined.length > 0 && <Joining names={row.joined} />}
      <span>
        <b>{source && !row?.part ? mix.title : station.label}</b>
        {!(source && !row?.part) && <small>{station.detail}</small>}
      </span>
    </>
  );
}

const MOST_LINES = 7;
const JOIN = { width: 14, height: 30 };

/** Stems that are added up: lines that come together. */
function Joining({ names }: { names: readonly string[] }) {
  const count = Math.min(MOST_LINES, names.length);
  const { width, height } = JOIN;
  const lines = Array.from({ length: count }, (_, at) => {
    const y = 2 + ((height - 4) * at) / Math.max(1, count - 1);
    return `M0 ${y}H${width / 3}L${width - 3} ${height / 2}H${width}`;
  });
  return (
    <svg
      className="joining"
      width={width}
      height={height}
      role="img"
      aria-label={`Sum of ${names.join(", ")}`}
    >
      <title>{names.join(" + ")}</title>
      {lines.map((line) => (
        <path key={line} d={line} />
      ))}
    </svg>
  );
}

/** Deliveries that have no place in the tree: those that cannot be made, and those that are switched off. */
export function TreeRest({ refused, off }: { refused: readonly Refused[]; off: readonly TicketLine[] }) {
  const session = useSession();
  if (!refused.length && !off.length) return null;
  const live = refused.filter((one) => one.code === "part.live");
  const soon = refused.filter((one) => one.code === "part.being-measured");
  const rest = refused.filter((one) => !soon.includes(one) && !live.includes(one));
  return (
    <ul className="tree-rest">
      {soon.length > 0 && (
        <li role="status">
          <VerdictMark verdict="look" />
          <span>Measuring {counted(soon.length, "delivery", "deliveries")}. You can press now.</span>
        </li>
      )}
      {live.map((one) => (
        <li key={one.line_id} role="status">
          <VerdictMark verdict="look" /> <span>{one.sentence} Runs when you press.</span>
        </li>
      ))}
      {rest.map((one) => (
        <li key={one.line_id} role="alert">
          <VerdictMark verdict="stop" /> <span>{one.sentence}</span>
          <Button size="small" onClick={() => session.removeLine(one.line_id)}>
            Remove
          </Button>
        </li>
      ))}
      {off.map((line) => (
        <li key={line.id}>
          <span className="quiet">Off: {line.brief}</span>
          <Button size="small" onClick={() => session.switchLine(line.id, true)}>
            Enable
          </Button>
          <Button size="small" type="text" onClick={() => session.removeLine(line.id)}>
            Remove
          </Button>
        </li>
      ))}
    </ul>
  );
}
