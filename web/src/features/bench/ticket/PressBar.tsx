import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { Mix, Pressing, Ticket } from "../../../api/client";
import { JobProgress } from "../../../shared/jobs/JobProgress";
import { bytes, clock, counted, seconds } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { FILES } from "../../../shared/text/words";
import type { PressingControl } from "../queries";
import { useSession } from "../session";

/** Refused only until it is known, or captured: it can be pressed, and is waited for. */
const SOON = new Set(["part.being-measured", "part.live"]);

interface PressBarProps {
  mix: Mix;
  ticket: Ticket | undefined;
  pressing: PressingControl;
  notKept: string | null;
}

export function PressBar({ mix, ticket, pressing, notKept }: PressBarProps) {
  const session = useSession();
  const rows = ticket?.rows ?? [];
  // What keeps a file from leaving comes first.
  const findings = rows
    .flatMap((row) => row.findings.map((finding) => ({ ...finding, row })))
    .sort((one, other) => Number(other.verdict === "stop") - Number(one.verdict === "stop"));
  // A running measurement will be finished when it is pressed.
  const measuring = (ticket?.refused ?? []).filter((one) => SOON.has(one.code)).length;
  const pressed = rows.filter((row) => !row.skipped).length;
  const count = pressed + measuring;
  const files = counted(count, "file");
  const total = rows.reduce((sum, row) => sum + (row.skipped ? 0 : row.size.middle), 0);
  const blocked = rows.some((row) => row.verdict === "stop");
  const [shown, setShown] = useState(0);
  const place = shown % Math.max(1, findings.length);
  const first = findings[place];
  const problem = pressing.error?.message ?? notKept;
  return (
    <footer className="press-bar">
      <div className="press-findings" aria-live="polite">
        {problem ? (
          <span className="over">{problem}</span>
        ) : first ? (
          <>
            <VerdictMark verdict={first.verdict} />
            <span>
              {rows.length > 1 && <b>{first.row.file_name}: </b>}
              {first.sentence}
            </span>
            {findings.length > 1 && (
              <Button
                size="small"
                type="text"
                onClick={() => setShown(place + 1)}
                aria-label={`${place + 1} of ${findings.length} ›, next finding`}
              >
                {place + 1} of {findings.length} ›
              </Button>
            )}
            {first.remedy && (
              <Button size="small" onClick={() => first.remedy && session.remedy(first.row, first.remedy)}>
                {first.remedy.label}
              </Button>
            )}
            {first.field && (
              <Button size="small" onClick={() => session.chooseStation(first.row, "tags", first.field)}>
                Edit field
              </Button>
            )}
            {first.frame !== null && (
              <Button size="small" onClick={() => session.setCursor(first.frame ?? 0)}>
                Go to {clock(first.frame, mix.rate_hz)}
              </Button>
            )}
          </>
        ) : (
          <>
            <VerdictMark verdict="ready" />
            <span>No findings.</span>
          </>
        )}
      </div>
      <PressState pressing={pressing} />
      {!pressing.underWay && (
        <span className="totals">
          {files} · {bytes(total)}
        </span>
      )}
      <Button
        type="primary"
        size="large"
        disabled={
          (!pressed && !measuring) ||
          blocked ||
          pressing.underWay ||
          (ticket?.refused ?? []).length > measuring
        }
        loading={pressing.beginning}
        aria-keyshortcuts="Control+Enter"
        onClick={() => pressing.press(session.bench())}
      >
        Press {files}
      </Button>
    </footer>
  );
}

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
