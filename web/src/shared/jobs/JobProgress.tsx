import { Button, Progress } from "antd";
import type { ReactNode } from "react";

interface Job {
  done: number;
  total: number;
}

interface JobProgressProps {
  job: Job | null | undefined;
  /** Name of the job, for assistive technology. */
  label: string;
  /** Its step. */
  doing?: ReactNode;
  cancel?: () => void;
}

/** How far a background job is, what it is doing, and a button that cancels it. */
export function JobProgress({ job, label, doing = label, cancel }: JobProgressProps) {
  return (
    <div className="job-progress" role="status">
      <span>{doing}</span>
      <Progress
        percent={job?.total ? Math.min(100, Math.round((100 * job.done) / job.total)) : 0}
        size="small"
        aria-label={`${label}, progress`}
      />
      {cancel && (
        <Button size="small" aria-label={`Cancel: ${label}`} onClick={cancel}>
          Cancel
        </Button>
      )}
    </div>
  );
}
