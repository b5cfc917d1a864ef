import { Button } from "antd";
import type { Row } from "../../../api/client";
import { VerdictMark } from "../../../shared/text/Verdict";
import { useSession } from "../session";

/** The findings of a file, each with what one click does about it. */
export function PanelFindings({ row }: { row: Row }) {
  const session = useSession();
  if (!row.findings.length) return null;
  return (
    <ul className="panel-findings" aria-label="Findings of this delivery">
      {row.findings.map(({ rule, sentence, field, frame, remedy, verdict }) => (
        <li key={`${rule} ${field} ${sentence}`}>
          <VerdictMark verdict={verdict} size={14} />
          <span>
            {sentence}{" "}
            {field && (
              <Button size="small" onClick={() => session.chooseStation(row, "tags", field)}>
                Edit field
              </Button>
            )}
            {remedy && (
              <Button size="small" onClick={() => session.remedy([row, remedy])}>
                {remedy.label}
              </Button>
            )}
            {frame !== null && (
              <Button size="small" type="text" onClick={() => session.setCursor(frame)}>
                Show
              </Button>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}
