import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { api, type HeldReport, type PressedFile, type Pressing } from "../../api/client";
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
export function useHeld(pressing: number, file: number, asked: boolean) {
  return useQuery({
    queryKey: ["pressings", pressing, "against", file, asked],
    queryFn: () => api.against(pressing, file, asked),
    enabled: file >= 0,
    placeholderData: (before, query) =>
      query?.queryKey[1] === pressing && query.queryKey[3] === file ? before : undefined,
  });
}

interface AgainstProps {
  pressing: Pressing;
  file: PressedFile;
  mode: Mode;
  asked: boolean;
  ask: () => void;
}

/** A pressed file laid over its mix: asked for, for the mix is gone through once more. */
export function AgainstMix({ pressing, file, mode, asked, ask }: AgainstProps) {
  const found = useHeld(pressing.id, file.number, asked);
  const { state, sentence, report } = found.data ?? { state: null, sentence: "", report: null };
  return (
    <section className="against" aria-label={`Comparison of ${file.name} with the mix`}>
      {!asked && state === "unknown" && (
        <>
          <Button onClick={ask}>Compare with the mix</Button>
          <small>Alignment, level, difference and audibility.</small>
        </>
      )}
      {found.error && <p role="alert">{found.error.message}</p>}
      {state === "failed" && (
        <p role="alert">
          {sentence} <Button onClick={() => found.refetch()}>Retry</Button>
        </p>
      )}
      {(state === "measuring" || (asked && found.isPending && !found.error)) && (
        <p role="status">{sentence || "Rendering the mix again …"}</p>
      )}
      {report && <Held report={report} file={file} mode={mode} />}
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
