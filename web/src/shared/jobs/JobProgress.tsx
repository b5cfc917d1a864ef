import { Button, Progress } from "antd";

interface Job {
  done: number;
  total: number;
}

/** How far a background job is, what it is doing, and a button that cancels it. */
export function JobProgress({
  job,
  label,
  doing = label,
  cancel,
}: {
  job: Job;
  label: string;
  doing?: string;
  cancel: () => void;
}) {
  return (
    <div className="job-progress" role="status">
      <span>{doing}</span>
      <Progress
        percent={job.total ? Math.round((100 * job.done) / job.total) : 0}
        size="small"
        aria-label={`${label}, progress`}
      />
      <Button size="small" aria-label={`Cancel: ${label}`} onClick={cancel}>
        Cancel
      </Button>
    </div>
  );
}
