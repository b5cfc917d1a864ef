import { Button } from "antd";
import type { Finding, Row } from "../../../api/client";
import { useSession } from "../session";

/** The findings of a file, or those of one rule, each with what one click does about it. */
export function PanelFindings({ row, only }: { row: Row; only?: Finding["rule"] }) {
  const session = useSession();
  const shown = row.findings.filter((one) => !only || one.rule === only);
  if (!shown.length) return null;
  return (
    <ul className="panel-findings">
      {shown.map(({ rule, sentence, field, remedy }) => (
        <li key={`${rule} ${field}`}>
          {sentence}{" "}
          {field && (
            <Button size="small" onClick={() => session.chooseStation(row, "tags", field)}>
              Edit field
            </Button>
          )}
          {remedy && (
            <Button size="small" onClick={() => session.remedy(row, remedy)}>
              {remedy.label}
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
