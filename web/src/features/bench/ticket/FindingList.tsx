import { Button } from "antd";
import type { Mix, Refused, Row } from "../../../api/client";
import { clock, counted } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { useSession } from "../session";
import type { FindingGroup } from "./findingGroups";

interface FindingListProps {
  mix: Mix;
  groups: readonly FindingGroup[];
  refused: readonly Refused[];
  close: () => void;
}

/** All findings of the ticket, each once, with the files that have it and what mends it in all of them. */
export function FindingList({ mix, groups, refused, close }: FindingListProps) {
  const session = useSession();
  const show = (row: Row, kind: string, field: string | null) => {
    close();
    session.chooseStation(row, kind, field);
  };
  return (
    <ul className="finding-list" aria-label="Findings">
      {refused.map((one) => (
        <li key={one.line_id}>
          <VerdictMark verdict="stop" size={16} />
          <span>{one.sentence}</span>
          <Button size="small" onClick={() => session.removeLine(one.line_id)}>
            Remove
          </Button>
        </li>
      ))}
      {groups.map(({ finding: { rule, sentence, field, frame, verdict }, rows }) => {
        const [first] = rows;
        const mends = rows.flatMap((row) => {
          const same = row.findings.find((one) => one.rule === rule && one.sentence === sentence);
          return same?.remedy ? [[row, same.remedy] as const] : [];
        });
        const everywhere = rows.length > 1 ? ` in all ${rows.length}` : "";
        return (
          <li key={`${rule} ${field} ${sentence}`}>
            <VerdictMark verdict={verdict} size={16} />
            <span>
              {sentence}
              <small>
                in {counted(rows.length, "file")}:{" "}
                {[...new Set(rows.map((row) => row.brief_title))].join(", ")}
              </small>
            </span>
            <span className="finding-acts">
              {mends[0] && (
                <Button size="small" onClick={() => session.remedy(...mends)}>
                  {mends[0][1].label}
                  {everywhere}
                </Button>
              )}
              {first && field && (
                <Button size="small" onClick={() => show(first, "tags", field)}>
                  Edit field
                </Button>
              )}
              {first && (
                <Button
                  size="small"
                  type="text"
                  onClick={() => {
                    if (frame !== null) session.setCursor(frame);
                    show(first, frame === null ? session.store.getState().station.kind : "range", null);
                  }}
                >
                  {frame === null ? "Show file" : `Go to ${clock(frame, mix.rate_hz)}`}
                </Button>
              )}
            </span>
          </li>
        );
      })}
    </ul>
  );
}
