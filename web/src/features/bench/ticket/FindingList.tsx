import { Button } from "antd";
import { useState } from "react";
import type { Mix, Refused, Row } from "../../../api/client";
import { Accepting } from "../../../shared/sending/Accepting";
import { clock, counted } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { useSession } from "../session";
import { type FindingGroup, withoutSignOff, withSignOff } from "./findingGroups";

interface FindingListProps {
  mix: Mix;
  groups: readonly FindingGroup[];
  refused: readonly Refused[];
  close: () => void;
}

/** All findings of the ticket, each once, with the files that have it and what mends it in all of them. */
export function FindingList({ mix, groups, refused, close }: FindingListProps) {
  const session = useSession();
  const [signing, setSigning] = useState<string | null>(null);
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
      {groups.map((group) => {
        const { finding, rows, signed } = group;
        const { rule, sentence, field, frame, verdict } = finding;
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
              {signed && (
                <small>
                  Signed off by {signed.by}: {signed.because}
                </small>
              )}
              {signing === `${rule} ${sentence}` && (
                <Accepting
                  pending={false}
                  words="Sign off"
                  accept={(by, because) => {
                    session.edit((now) => withSignOff(now, group, by, because));
                    setSigning(null);
                  }}
                />
              )}
            </span>
            <span className="finding-acts">
              {mends[0] && (
                <Button size="small" onClick={() => session.remedy(...mends)}>
                  {mends[0][1].label}
                  {everywhere}
                </Button>
              )}
              {verdict === "look" &&
                (signed ? (
                  <Button
                    size="small"
                    type="text"
                    onClick={() => session.edit((now) => withoutSignOff(now, signed))}
                  >
                    Remove sign-off
                  </Button>
                ) : (
                  <Button size="small" type="text" onClick={() => setSigning(`${rule} ${sentence}`)}>
                    Sign off…
                  </Button>
                ))}
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
