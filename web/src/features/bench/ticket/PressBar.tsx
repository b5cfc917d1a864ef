import { Button, Popover } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Mix, Pressing, Refused, Row, Ticket } from "../../../api/client";
import { MadeFiles } from "../../../shared/files/MadeFiles";
import { JobProgress } from "../../../shared/jobs/JobProgress";
import { bytes, counted, seconds } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { FILES } from "../../../shared/text/words";
import type { PressingControl } from "../queries";
import { useBench, useSession, useSetOut } from "../session";
import { FindingList } from "./FindingList";
import { grouped } from "./findingGroups";
import { SaveTo } from "./SaveTo";
import { SOON } from "./useRows";

interface PressBarProps {
  mix: Mix;
  ticket: Ticket | undefined;
  pressing: PressingControl;
  notKept: string | null;
}

export function PressBar({ mix, ticket, pressing, notKept }: PressBarProps) {
  const session = useSession();
  const notice = useBench((view) => view.notice);
  const rows = ticket?.rows ?? [];
  const refused = ticket?.refused ?? [];
  // A running measurement will be finished when it is pressed.
  const stopped = refused.filter((one) => !SOON.has(one.code));
  const pressed = rows.filter((row) => !row.skipped).length;
  const measuring = refused.length - stopped.length;
  const files = counted(pressed + measuring, "file");
  const total = rows.reduce((sum, row) => sum + (row.skipped ? 0 : row.size.middle), 0);
  const blocked =
    stopped.length > 0 || Boolean(ticket?.folder_problem) || rows.some((row) => row.verdict === "stop");
  const problem = pressing.error?.message ?? notKept ?? notice;
  return (
    <footer className="press-bar">
      <Findings mix={mix} rows={rows} refused={stopped} />
      <div className="press-middle" aria-live="polite">
        {problem ? <span className="over">{problem}</span> : <PressState pressing={pressing} />}
      </div>
      {!pressing.underWay && (
        <span className="totals">
          {bytes(total)}
          {ticket && total > 0 && ` · ${about(ticket.seconds)}`}
        </span>
      )}
      <SaveTo mix={mix} ticket={ticket} />
      <Button
        type="primary"
        size="large"
        disabled={!(pressed || measuring) || blocked || pressing.underWay}
        loading={pressing.beginning}
        aria-keyshortcuts="Control+Enter"
        onClick={() => pressing.press(session.bench())}
      >
        Press {files}
      </Button>
    </footer>
  );
}

interface FindingsProps {
  mix: Mix;
  rows: readonly Row[];
  refused: readonly Refused[];
}

/** How many findings there are, and all of them on one click. */
function Findings({ mix, rows, refused }: FindingsProps) {
  const [open, setOpen] = useState(false);
  const groups = grouped(rows, useSetOut().signed);
  const weighty = groups.filter((one) => one.finding.verdict !== "ready" && !one.signed);
  const signed = groups.filter((one) => one.signed).length;
  const notes = groups.length - weighty.length - signed;
  const count = weighty.length + refused.length;
  const worst = refused.length ? "stop" : (weighty[0]?.finding.verdict ?? "ready");
  const files = new Set(weighty.flatMap((one) => one.rows)).size + refused.length;
  const words = count ? `${counted(count, "finding")} in ${counted(files, "file")}` : "No findings";
  const signedWords = signed ? [`${signed} signed off`] : [];
  const all = [words, ...signedWords, ...(notes ? [counted(notes, "note")] : [])].join(", ");
  if (!groups.length && !refused.length) {
    return (
      <span className="press-findings">
        <VerdictMark verdict="ready" />
        {words}
      </span>
    );
  }
  return (
    <Popover
      trigger="click"
      placement="topLeft"
      open={open}
      onOpenChange={setOpen}
      title={all}
      content={<FindingList mix={mix} groups={groups} refused={refused} close={() => setOpen(false)} />}
    >
      <Button className={`press-findings finding-${worst}`}>
        <VerdictMark verdict={worst} />
        {all}
      </Button>
    </Popover>
  );
}

const about = (duration: number) => (duration < 0.95 ? "" : "about ") + seconds(duration);

/** The state of the unfinished files, in a few words. */
function stages({ lines }: Pressing): string {
  const counts = STAGES.map((state) => [lines.filter((line) => line.state === state).length, FILES[state]]);
  return counts.flatMap(([count, word]) => (count ? [`${count} ${word}`] : [])).join(", ") || "Starting";
}

const STAGES = ["named", "reading-back", "making", "settling"] as const;

function PressState({ pressing }: { pressing: PressingControl }) {
  const latest = pressing.latest;
  // The last result is outdated after the next request to press.
  if (pressing.beginning) return <div className="press-state">Starting</div>;
  if (!latest) return null;
  if (pressing.underWay) {
    const left = latest.seconds_left;
    return (
      <section className="press-state" aria-label="Pressing">
        <JobProgress
          job={latest}
          label="Pressing"
          doing={
            <Link to="/press">{left === null ? "Waiting" : `${stages(latest)}, ${seconds(left)} left`}</Link>
          }
          cancel={pressing.cancel}
        />
      </section>
    );
  }
  if (latest.state === "done") {
    const failed = latest.lines.filter((line) => line.state === "failed");
    const speed = latest.times_realtime ? `, ${Math.round(latest.times_realtime)}× real time` : "";
    return (
      <div className="press-state" role="status" aria-label="Last pressing">
        {latest.files[0] && <VerdictMark verdict={latest.files[0].verdict} />}
        <Link to={`/proof/${latest.id}`}>Open proof</Link>
        <MadeFiles pressing={latest} />
        <span>
          pressed in {(latest.seconds ?? 0).toFixed(1)} s{speed}
        </span>
        {failed[0] && (
          <span className="over">
            {failed.length === 1 ? failed[0].error : `${counted(failed.length, "file")} failed. Open proof.`}
          </span>
        )}
      </div>
    );
  }
  return (
    <div className="press-state" role="status">
      <span className={latest.state === "failed" ? "over" : ""}>{latest.error}</span>
    </div>
  );
}
