import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, type HeldReport, type PressedFile, type Pressing } from "../../api/client";
import type { Mode } from "../../app/theme";
import { level } from "../../shared/format";
import { drawSpectra, Picture } from "../../shared/Picture";
import { VerdictMark } from "../../shared/Verdict";
import { drawDifference, drawHearing } from "./drawHeld";

const SAID = {
  same: "Nothing differs that an ear could hear",
  none: "No difference is predicted",
  perhaps: "Perhaps a difference",
  noticed: "The ear may notice",
};

const READ_BACK = new Set([
  "rate_as_asked",
  "channels_as_asked",
  "depth_as_asked",
  "codec_as_asked",
  "frames_as_asked",
]);

/** A pressed file laid over its mix: asked for, for the mix is gone through once more. */
export function AgainstMix({ pressing, file, mode }: { pressing: Pressing; file: PressedFile; mode: Mode }) {
  const [asked, setAsked] = useState(false);
  const found = useQuery({
    queryKey: ["pressings", pressing.id, "against", file.number],
    queryFn: () => api.against(pressing.id, file.number),
    enabled: asked,
    placeholderData: (before) => before,
  });
  const { state, sentence, report } = found.data ?? { state: null, sentence: "", report: null };
  return (
    <section className="against" aria-label={`${file.name} against the mix`}>
      {!asked && (
        <>
          <Button onClick={() => setAsked(true)}>Hold against the mix</Button>
          <small>Where it begins, how loud it is, what differs, and whether an ear may notice.</small>
        </>
      )}
      {found.error && <p role="alert">{found.error.message}</p>}
      {state === "failed" && (
        <p role="alert">
          {sentence} <Button onClick={() => found.refetch()}>Try again</Button>
        </p>
      )}
      {(state === "measuring" || (asked && found.isPending && !found.error)) && (
        <p role="status">{sentence || "The mix is gone through once more."}</p>
      )}
      {report && <Held report={report} file={file} mode={mode} />}
    </section>
  );
}

function Held({ report, file, mode }: { report: HeldReport; file: PressedFile; mode: Mode }) {
  const { difference, spectra, hearing } = report;
  const lastHz = file.sample_rate_hz / 2;
  // What the file's own table has already, and the sentence above, are not said twice.
  const told = new Set<string | undefined>([
    ...file.checks.map((one) => one.id ?? one.check),
    "difference_heard",
  ]);
  const checks = report.checks.filter(
    (one) => !told.has(one.id ?? one.check) && !READ_BACK.has(one.id ?? ""),
  );
  return (
    <>
      <h3>
        <VerdictMark verdict={report.verdict} /> Against the mix
      </h3>
      <p className="against-sentence">{report.sentence}</p>
      {report.findings.map((finding) => (
        <p key={finding.rule} className="finding">
          <VerdictMark verdict={finding.verdict} /> {finding.sentence}
        </p>
      ))}
      <div className="held-pictures">
        {difference && difference.peak_dbfs !== null && (
          <figure>
            <figcaption>
              Difference over time <b>{level(difference.rms_dbfs, "dBFS")}</b>,{" "}
              {level(difference.peak_dbfs, "dBFS")} at most
            </figcaption>
            <Picture
              label={`Difference over time, ${level(difference.rms_dbfs, "dBFS")} in all`}
              mode={mode}
              draw={(canvas) => drawDifference(canvas, difference.curve_dbfs)}
            />
          </figure>
        )}
        {spectra && difference && difference.peak_dbfs !== null && (
          <figure>
            <figcaption>
              Spectrum: <span className="of-mix">the mix</span>, <span className="of-file">the file</span>,{" "}
              <span className="of-difference">what differs</span>
            </figcaption>
            <Picture
              label="Spectra of the mix, the file and what differs"
              mode={mode}
              draw={(canvas) =>
                drawSpectra(canvas, {
                  curves: [
                    { points: spectra.mix, colour: "outside" },
                    { points: spectra.file, colour: "wave" },
                    { points: spectra.difference, colour: "edge" },
                  ],
                  lastHz,
                  topDb: -20,
                  floorDb: -160,
                  levels: [-40, -80, -120],
                })
              }
            />
          </figure>
        )}
        {hearing && hearing.total_db !== null && (
          <figure className="wide">
            <figcaption>
              Where the ear may notice: <b>{SAID[hearing.prediction]}</b>; on average what differs lies{" "}
              {Math.abs(hearing.total_db).toFixed(1)} dB {hearing.total_db < 0 ? "below" : "above"} what is
              masked. By a model; nobody listened.
            </figcaption>
            <Picture
              label={`${SAID[hearing.prediction]}. ${hearing.sentence}`}
              mode={mode}
              draw={(canvas) => drawHearing(canvas, hearing)}
            />
          </figure>
        )}
      </div>
      <dl className="held-checks">
        {checks.map((one) => (
          <div key={one.id ?? one.check}>
            <dt>{one.check}</dt>
            <dd>{one.found}</dd>
          </div>
        ))}
      </dl>
    </>
  );
}
