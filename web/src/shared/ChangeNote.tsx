import { useMutation } from "@tanstack/react-query";
import { Button } from "antd";
import { api, type FileChange } from "../api/client";
import { JobProgress } from "./jobs/JobProgress";
import { useOtherVersion } from "./useChanges";

/** A mix with a changed file: the differences, and the actions. */
export function ChangeNote({ change, title }: { change: FileChange; title: string }) {
  const other = useOtherVersion();
  const take = useMutation({ mutationFn: () => api.takeChange(change.mix_id), onSuccess: other });
  const leave = useMutation({ mutationFn: () => api.leaveChange(change.mix_id) });
  const look = useMutation({ mutationFn: () => api.lookAtChange(change.mix_id) });
  const problem = take.error ?? leave.error ?? look.error;
  return (
    <section className={`change change-${change.state}`} aria-label={`${title} changed on disk`}>
      {change.state === "reading" && (
        <JobProgress job={change.job} label={`Reading ${title} again`} doing="File changed. Comparing" />
      )}
      {change.state === "changed" && (
        <>
          <p>
            <b>File changed.</b> {sentence(change.sentences)}
          </p>
          <div className="change-acts">
            <Button size="small" type="primary" loading={take.isPending} onClick={() => take.mutate()}>
              Use as new version
            </Button>
            <Button size="small" type="text" loading={leave.isPending} onClick={() => leave.mutate()}>
              Ignore
            </Button>
            <small>{change.lost.join(" ") || "Ranges, markers, ticket and tags are kept."}</small>
          </div>
        </>
      )}
      {change.state === "left" && (
        <p>
          File differs from the measured version; pressing is blocked.{" "}
          <Button size="small" loading={look.isPending} onClick={() => look.mutate()}>
            Show differences
          </Button>
        </p>
      )}
      {change.state === "refused" && (
        <p>
          File changed, but is not a usable version: {change.sentences.join(" ")}{" "}
          <Button size="small" type="text" onClick={() => leave.mutate()}>
            Ignore
          </Button>
        </p>
      )}
      {change.state === "gone" && <p>File missing. Restore it or add it again. The ticket is kept.</p>}
      {problem && (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      )}
    </section>
  );
}

/** The differences as one sentence. */
export function sentence(parts: readonly string[]): string {
  const text = parts.join("; ");
  return text ? `${text[0]?.toUpperCase()}${text.slice(1)}.` : "";
}
