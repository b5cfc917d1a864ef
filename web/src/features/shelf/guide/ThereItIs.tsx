import { Button, Input } from "antd";
import { Link } from "react-router";
import { downloadUrl, type Finding, type Remedy } from "../../../api/client";
import { FolderChoice } from "../../../shared/folders/FolderChoice";
import { JobProgress } from "../../../shared/jobs/JobProgress";
import { bytes } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import type { GuideState } from "./useGuide";

/** The planned file, its settings and open decisions; then the finished file with its checks. */
export function ThereItIs({ guide }: { guide: GuideState }) {
  const { mix, brief, row, mended, refused } = guide;
  if (guide.pressing) return <Made guide={guide} />;
  if (!mix || !brief) {
    return <p className="quiet">Answer both questions to see the file.</p>;
  }
  if (refused) return <p className="over">{refused.sentence}</p>;
  if (!row) return <p className="quiet">Calculating …</p>;
  const blocked = row.verdict === "stop" || Boolean(guide.ticket?.folder_problem);
  return (
    <>
      <p>
        <b>{row.file_name}</b>, {bytes(row.size.middle)}
      </p>
      <div className="guide-acts">
        <Input
          key={`${mix.id} ${brief}`}
          className="guide-name"
          aria-label="File name"
          defaultValue={row.file_name.replace(/^.*\/|\.[^.]*$/g, "")}
          maxLength={120}
          onBlur={(event) => guide.setName(event.target.value.trim())}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
        {guide.ticket && (
          <FolderChoice
            of={{ mix_id: mix.id }}
            folder={guide.ticket.folder}
            problem={guide.ticket.folder_problem}
            choose={guide.setFolder}
          />
        )}
      </div>
      {mended.length > 0 && (
        <p>
          {mended.map((one) => (
            <span key={one.label}>
              Set automatically: <b>{one.label}</b>. Without it: {one.because}{" "}
            </span>
          ))}
          <Button size="small" type="text" onClick={guide.leaveAsIs}>
            Undo
          </Button>
        </p>
      )}
      <Findings findings={row.findings} apply={guide.remedy} write={guide.write} />
      <div className="guide-acts">
        <Button type="primary" size="large" disabled={blocked || !guide.settled} onClick={guide.press}>
          Press file
        </Button>
        <Link to={`/bench/${mix.id}`}>or adjust on the Bench</Link>
      </div>
    </>
  );
}

const MOST_FINDINGS = 3;

interface FindingsProps {
  findings: readonly (Pick<Finding, "sentence" | "verdict"> & {
    remedy?: Remedy | null;
    field?: string | null;
  })[];
  apply?: (remedy: Remedy) => void;
  /** Fills a field of the tag sheet that is missed. */
  write?: (field: string, text: string) => void;
}

function Findings({ findings, apply, write }: FindingsProps) {
  const more = findings.length - MOST_FINDINGS;
  return (
    <>
      {findings.slice(0, MOST_FINDINGS).map(({ sentence, verdict, remedy, field }) => (
        <p key={sentence} className="guide-finding">
          <VerdictMark verdict={verdict} />
          <span>
            {sentence}{" "}
            {apply && remedy && (
              <Button size="small" onClick={() => apply(remedy)}>
                {remedy.label}
              </Button>
            )}
            {write && field && field !== "cover" && (
              <Input
                key={field}
                size="small"
                className="guide-field"
                aria-label={`The field ${field} of the tag sheet`}
                placeholder="enter a value"
                onPressEnter={(event) => write(field, event.currentTarget.value.trim())}
                onBlur={(event) => event.target.value.trim() && write(field, event.target.value.trim())}
              />
            )}
          </span>
        </p>
      ))}
      {more > 0 && <p className="quiet">and {more} more on the Bench</p>}
    </>
  );
}

function Made({ guide }: { guide: GuideState }) {
  const { pressing, mix, ended } = guide;
  if (!pressing) return null;
  if (!ended) {
    const { done, total, lines } = pressing;
    const verifying = lines.some((line) => line.state === "reading-back" || line.state === "named");
    return (
      <JobProgress job={{ done, total }} label="Rendering" doing={verifying ? "Verifying" : "Rendering"} />
    );
  }
  const [file] = pressing.files;
  if (!file)
    return <p className="over">{pressing.error || pressing.lines[0]?.error || "No file was pressed."}</p>;
  const leaves = file.verdict !== "stop";
  return (
    <>
      <p className="guide-made">
        <VerdictMark verdict={file.verdict} size={26} />
        <span>
          <b>{file.name}</b>, {bytes(file.bytes)}. {file.verdict === "ready" ? "All checks passed." : ""}
          {!leaves && "Blocked: does not meet the brief."}
        </span>
      </p>
      <Findings findings={file.findings.map(({ sentence, verdict }) => ({ sentence, verdict }))} />
      <div className="guide-acts">
        {leaves && (
          <Button
            type="primary"
            size="large"
            href={downloadUrl(pressing.id, file.number)}
            download={file.name}
          >
            Download
          </Button>
        )}
        <Link to={`/proof/${pressing.id}`}>Open proof</Link>
        {mix && <Link to={`/bench/${mix.id}`}>Add deliveries on the Bench</Link>}
      </div>
      {leaves && <p className="quiet path">Saved to {file.path}</p>}
    </>
  );
}
