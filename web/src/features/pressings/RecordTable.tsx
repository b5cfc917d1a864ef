import { Button, Input } from "antd";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import type { RecordRow, Verdict } from "../../api/client";
import { Empty } from "../../shared/Empty";
import { when } from "../../shared/text/pressings";
import { VerdictMark } from "../../shared/text/Verdict";
import { VERDICTS } from "../../shared/text/words";
import { useRecord } from "./queries";
import { remark } from "./words";

const SHOWN: readonly Verdict[] = ["ready", "look", "stop"];

const COLUMNS = [
  ["No.", true],
  ["Mix", true],
  ["Files", true],
  ["Verdict", false],
  ["Brief", true],
  ["Date", true],
  ["Note", false],
] as const;

export const FIND_PRESSING = "find-pressing";

/** Everything that was ever pressed, newest first, found by any word that belongs to it. */
export function RecordTable({ chosen }: { chosen: number | null }) {
  const [find, setFind] = useState("");
  const [verdict, setVerdict] = useState<Verdict | "">("");
  const asked = useDeferredValue(find.trim());
  const record = useRecord(asked, verdict);
  const rows = record.data?.pages.flatMap((page) => page.rows) ?? [];
  const count = record.data?.pages[0]?.count ?? 0;
  const narrowed = asked !== "" || verdict !== "";
  return (
    <section className="sheet record-room" aria-label="History">
      <header className="record-head">
        <Input
          id={FIND_PRESSING}
          value={find}
          maxLength={200}
          allowClear
          aria-label="Search history"
          placeholder="Search mix, file, brief, tag, checksum"
          onChange={(event) => setFind(event.target.value)}
        />
        {SHOWN.map((one) => (
          <Button
            key={one}
            className={verdict === one ? "chosen" : ""}
            aria-pressed={verdict === one}
            icon={<VerdictMark verdict={one} size={14} />}
            onClick={() => setVerdict(verdict === one ? "" : one)}
          >
            {VERDICTS[one]}
          </Button>
        ))}
        <span className="quiet" role="status">
          {record.error
            ? record.error.message
            : `${count.toLocaleString("en-GB")} ${narrowed ? "found" : "in all"}`}
        </span>
      </header>
      <div className="record-scroll">
        <table className="record-table">
          <thead>
            <tr>
              {COLUMNS.map(([title, shown]) => (
                <th key={title} scope="col" className="record-title">
                  <span className={shown ? "" : "unseen"}>{title}</span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <Line key={row.id} row={row} chosen={row.id === chosen} />
            ))}
          </tbody>
        </table>
        {record.isSuccess &&
          !rows.length &&
          (narrowed ? (
            <p className="record-none">No results.</p>
          ) : (
            <Empty title="No pressings yet" to="/shelf" act="Open Shelf">
              Choose a mix on the Shelf and press it.
            </Empty>
          ))}
        {record.hasNextPage && (
          <Button type="text" loading={record.isFetchingNextPage} onClick={() => record.fetchNextPage()}>
            Show older
          </Button>
        )}
      </div>
    </section>
  );
}

function Line({ row, chosen }: { row: RecordRow; chosen: boolean }) {
  const go = useNavigate();
  return (
    <tr className={chosen ? "chosen" : ""} aria-selected={chosen} onClick={() => go(`/press/${row.id}`)}>
      <td>
        <button type="button" aria-label={`Pressing ${row.id}, ${row.mix_title}`}>
          {row.id}
        </button>
      </td>
      <th scope="row">{row.mix_title}</th>
      <td>{row.file_count || "—"}</td>
      <td>{row.verdict && <VerdictMark verdict={row.verdict} size={17} />}</td>
      <td className="record-for" title={row.purposes}>
        {row.purposes || "—"}
      </td>
      <td>{when(row.made_at)}</td>
      <td className="quiet">{remark(row)}</td>
    </tr>
  );
}
