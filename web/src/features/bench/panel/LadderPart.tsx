import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type LadderReport, type Row, type RungView, type VoiceRequest } from "../../../api/client";
import { JobProgress } from "../../../shared/jobs/JobProgress";
import { Picture } from "../../../shared/Picture";
import { bytes } from "../../../shared/text/format";
import { useFormats } from "../../../shared/text/formats";
import { PREDICTIONS } from "../../../shared/text/words";
import type { Mode } from "../../../shared/theme";
import { withFormat } from "../model";
import { useSession, useSetOut } from "../session";
import { drawLadder } from "./drawLadder";
import type { PanelProps } from "./stations/panel";

const shortly = (one: RungView) =>
  one.set_kbps === null ? `quality ${one.set_quality}` : `${one.set_kbps}k`;

/** The codec comparison of a file: every codec at every usual bit rate, and the smallest that suffices. */
export function LadderPart({ mix, mode, row, line, into }: Omit<PanelProps, "codecTrial" | "levels">) {
  const { editLines } = useSession();
  const bench = useSetOut();
  const formats = useFormats();
  const go = useNavigate();
  const [asked, setAsked] = useState(false);
  const range = bench.ranges.find((one) => one.id === row.range_id);
  const found = useQuery({
    // Format and level of the delivery do not affect it: any of its settings may be chosen during
    // the run.
    queryKey: ["ladders", mix.content, range, bench.finish, line.changes.channels, line.changes.finish],
    queryFn: () => api.ladder(mix.id, bench, row.id),
    enabled: asked,
    placeholderData: (before) => before,
  });
  const take = (rung: RungView) => {
    const can = formats.of(rung.container);
    if (!can) return;
    const set = { mode: rung.mode, kbps: rung.set_kbps, coding_quality: rung.set_quality };
    editLines(into, (one) => ({ ...one, changes: { ...withFormat(one.changes, can), ...set } }));
  };
  // The bench is saved first: the server encodes from it.
  const hear = async (rung: RungView) => {
    await api.setBench(mix.id, mix.content, bench);
    const { container, mode: way, set_kbps: kbps, set_quality: coding_quality } = rung;
    const beside: VoiceRequest[] = [
      { mix_id: mix.id, rung: { file: row.id, container, mode: way, kbps, coding_quality } },
    ];
    go(`/desk/${mix.id}?beside=${encodeURIComponent(JSON.stringify(beside))}`);
  };
  const view = found.data;
  return (
    <section className="ladder" aria-label="Bit-rate ladder">
      {!asked && (
        <Button size="small" onClick={() => setAsked(true)}>
          Find smallest transparent setting
        </Button>
      )}
      {found.error && <p role="alert">{found.error.message}</p>}
      {(view?.state === "failed" || view?.state === "cancelled") && <p role="alert">{view.sentence}</p>}
      {view?.state === "running" && (
        <JobProgress
          job={view}
          label="Bit-rate ladder"
          doing="Encoding difficult passages at all common bit rates"
          cancel={() => {
            void api.cancelLadder(view.id);
            setAsked(false);
          }}
        />
      )}
      {view?.report && <Rungs report={view.report} mode={mode} row={row} take={take} hear={hear} />}
    </section>
  );
}

function Rungs({
  report,
  mode,
  row,
  take,
  hear,
}: {
  report: LadderReport;
  mode: Mode;
  row: Row;
  take: (rung: RungView) => void;
  hear: (rung: RungView) => Promise<void>;
}) {
  const { smallest_transparent: smallest, rungs } = report;
  const { container, kbps, coding_quality } = row.settled;
  const isSet = (one: RungView) =>
    one.container === container &&
    (one.set_kbps === null ? one.set_quality === coding_quality : one.set_kbps === kbps);
  return (
    <>
      <p>{report.sentence}</p>
      {smallest && !isSet(smallest) && (
        <Button size="small" type="primary" onClick={() => take(smallest)}>
          Use {smallest.codec}, {smallest.set_to}
        </Button>
      )}
      {smallest && (
        <Button size="small" onClick={() => void hear(smallest)}>
          Compare with the mix
        </Button>
      )}
      <Picture
        mode={mode}
        label={`Size and audibility, ${rungs.length} settings. ${report.sentence}`}
        draw={(canvas) => drawLadder(canvas, rungs, smallest)}
      />
      <p className="picture-key">
        Filled: transparent. Hollow: may be audible. Higher: further below masking.
      </p>
      <table className="rungs">
        <thead>
          <tr>
            <th scope="col">Setting</th>
            <th scope="col">Size</th>
            <th scope="col">Audibility</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {rungs.map((one) => (
            <tr key={`${one.container} ${one.set_to}`} className={one.whole ? "chosen" : ""}>
              <th scope="row">
                {one.codec.replace(/^Ogg | in MP4$/g, "")} <small>{shortly(one)}</small>
              </th>
              <td>{bytes(one.bytes)}</td>
              <td title={one.reasons.join("; ")}>{PREDICTIONS[one.prediction]}</td>
              <td>
                <Button
                  size="small"
                  onClick={() => void hear(one)}
                  aria-label={`Compare ${one.codec}, ${one.set_to}`}
                >
                  Compare
                </Button>{" "}
                {isSet(one) ? (
                  "set"
                ) : (
                  <Button
                    size="small"
                    onClick={() => take(one)}
                    aria-label={`Use ${one.codec}, ${one.set_to}`}
                  >
                    Use
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
