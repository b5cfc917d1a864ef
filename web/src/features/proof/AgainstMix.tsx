import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { api, type HeldReport, type PressedFile, type Pressing } from "../../api/client";
import { JobProgress } from "../../shared/jobs/JobProgress";
import { usePressingAction } from "../../shared/jobs/useAction";
import { Figures } from "../../shared/text/Figures";
import { VerdictMark } from "../../shared/text/Verdict";
import type { Mode } from "../../shared/theme";
import { HeldPictures } from "./HeldPictures";

const READ_BACK = new Set([
  "rate_as_asked",
  "channels_as_asked",
  "depth_as_asked",
  "codec_as_asked",
  "frames_as_asked",
]);

/** The comparison of a file with its mix; nothing is measured before the first request. */
export function useHeld(pressing: number, file: number) {
  return useQuery({
    queryKey: ["pressings", pressing, "against", file],
    queryFn: () => api.against(pressing, file),
    enabled: file >= 0,
  });
}

/** Starts the comparison of a file with its mix. */
export function useCompareWithMix(pressing: number) {
  const queries = useQueryClient();
  return usePressingAction(
    (file: number) => api.compareWithMix(pressing, file),
    (job, file) => queries.setQueryData(["pressings", pressing, "against", file], job),
  );
}

/** A pressed file laid over its mix: on request, because the mix is rendered once more. */
export function AgainstMix({ pressing, file, mode }: { pressing: Pressing; file: PressedFile; mode: Mode }) {
  const found = useHeld(pressing.id, file.number);
  const compare = useCompareWithMix(pressing.id);
  const cancel = usePressingAction(() => api.cancelMixComparison(pressing.id, file.number));
  const job = found.data;
  return (
    <section className="against" aria-label={`Comparison of ${file.name} with the mix`}>
      {found.error && <p role="alert">{found.error.message}</p>}
      {job?.state === "running" && (
        <JobProgress
          job={job}
          label="Comparison"
          doing="Rendering the mix again"
          cancel={() => cancel.mutate(undefined)}
        />
      )}
      {job?.sentence && <p role="alert">{job.sentence}</p>}
      {found.isSuccess && job?.state !== "running" && !job?.report && (
        <>
          <Button loading={compare.isPending} onClick={() => compare.mutate(file.number)}>
            {job?.state === "failed" ? "Retry" : "Compare with the mix"}
          </Button>
          <small>Alignment, level, difference and audibility.</small>
        </>
      )}
      {job?.report && <Held report={job.report} file={file} mode={mode} />}
    </section>
  );
}

function Held({ report, file, mode }: { report: HeldReport; file: PressedFile; mode: Mode }) {
  // What the file's own table has already, and the sentence above, are not said twice.
  const listed = new Set<string | undefined>([
    ...file.checks.map((one) => one.rule || one.title),
    "difference_heard",
  ]);
  const checks = report.checks.filter(
    (one) => !listed.has(one.rule || one.title) && !READ_BACK.has(one.rule),
  );
  return (
    <>
      <h3>
        <VerdictMark verdict={report.verdict} /> Comparison with the mix
      </h3>
      <p className="against-sentence">{report.sentence}</p>
      {report.findings.map((finding) => (
        <p key={finding.rule} className="finding">
          <VerdictMark verdict={finding.verdict} /> {finding.sentence}
        </p>
      ))}
      <HeldPictures report={report} file={file} mode={mode} />
      <Figures wide lines={checks.map((one) => [one.title, one.found])} />
    </>
  );
}
