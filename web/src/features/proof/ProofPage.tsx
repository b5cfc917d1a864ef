import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, NavLink, useParams } from "react-router";
import { api, downloadUrl, fileListenUrl, type PressedFile, type Pressing } from "../../api/client";
import type { Mode } from "../../app/theme";
import { bytes, clock, level } from "../../shared/format";
import { player, usePlayer } from "../../shared/player";
import { STATES, when } from "../../shared/pressings";
import { VerdictMark } from "../../shared/Verdict";
import { AgainstMix } from "./AgainstMix";
import { linesOf } from "./lines";

const EDGE_SECONDS = 4;
/** With more files than these, those that hold are folded. */
const MOST_OPEN = 6;
export function ProofPage({ mode }: { mode: Mode }) {
  const { pressingId } = useParams();
  const record = useQuery({ queryKey: ["pressings", "newest"], queryFn: () => api.record("", "", null) });
  const all = record.data?.rows ?? [];
  const wanted = pressingId ? Number(pressingId) : all[0]?.id;
  const pressing = useQuery({
    queryKey: ["pressings", wanted],
    queryFn: () => api.pressing(wanted ?? 0),
    enabled: wanted !== undefined,
    retry: false,
  });
  const shown = pressing.data;
  return (
    <div className="proof">
      <header className="page-head">
        <h1>Proof</h1>
        <p>Every pressed file is read back from the disk, measured, and held against what was asked for.</p>
      </header>
      {record.isSuccess && !all.length && (
        <div className="empty">
          <p className="empty-title">Nothing has been pressed yet</p>
          <p>
            Choose a mix on the <Link to="/shelf">shelf</Link> and press it.
          </p>
        </div>
      )}
      {pressing.error && <p role="alert">{pressing.error.message}</p>}
      <div className="proof-room">
        <nav className="record" aria-label="Pressings">
          {all.map((row) => (
            <NavLink key={row.id} to={`/proof/${row.id}`} className={row.id === wanted ? "active" : ""}>
              {row.verdict && <VerdictMark verdict={row.verdict} size={15} />}
              <b>{row.mix_title}</b>
              <small>
                {STATES[row.state]} · {when(row.made_at)}
              </small>
            </NavLink>
          ))}
          {(record.data?.count ?? 0) > all.length && <Link to="/press">All of the record</Link>}
        </nav>
        <div>
          {shown?.error && (
            <p className="sheet note" role="alert">
              {shown.error}
            </p>
          )}
          {shown?.lines
            .filter((line) => line.error && line.error !== shown.error)
            .map((line) => (
              <p
                key={line.number}
                className="sheet note"
                role={line.state === "failed" ? "alert" : undefined}
              >
                <b>{line.name}</b>: {line.error}
              </p>
            ))}
          {shown?.files.map((file) => (
            <FileProof key={file.path} pressing={shown} file={file} mode={mode} />
          ))}
        </div>
      </div>
    </div>
  );
}

function FileProof({ pressing, file, mode }: { pressing: Pressing; file: PressedFile; mode: Mode }) {
  const { number } = file;
  const state = usePlayer();
  const span = Math.min(file.frames, EDGE_SECONDS * file.sample_rate_hz);
  const hear = (what: string, start: number, end: number) =>
    player.play(what, fileListenUrl(pressing.id, number, start, end), start, end, file.sample_rate_hz);
  const left = file.verdict !== "stop";
  return (
    <article className="sheet file-proof" aria-label={file.name}>
      <header>
        <VerdictMark verdict={file.verdict} size={26} />
        <div>
          <h2>{file.name}</h2>
          <p>
            {file.verdict} · {bytes(file.bytes)} · {clock(file.frames, file.sample_rate_hz)}
          </p>
        </div>
        {left && file.there && (
          <fieldset className="listening" aria-label={`Listen to ${file.name}`}>
            {state.status === "playing" ? (
              <Button onClick={() => player.stop()}>Stop</Button>
            ) : (
              <Button onClick={() => hear("file", 0, file.frames)}>Play</Button>
            )}
            <Button onClick={() => hear("start", 0, span)}>Hear start</Button>
            <Button onClick={() => hear("end", file.frames - span, file.frames)}>Hear end</Button>
            <Button type="primary" href={downloadUrl(pressing.id, number)} download={file.name}>
              Download
            </Button>
          </fieldset>
        )}
      </header>
      {left && !file.there && (
        <p role="alert">The file is no longer where it was pressed: it was moved or deleted.</p>
      )}
      {file.findings.map((finding) => (
        <p key={`${finding.rule} ${finding.field}`} className="finding">
          <VerdictMark verdict={finding.verdict} /> {finding.sentence}
        </p>
      ))}
      <details className="read-back" open={file.verdict !== "ready" || pressing.files.length <= MOST_OPEN}>
        <summary>What was asked, what was found</summary>
        <table className="proof-table">
          <thead>
            <tr>
              <th scope="col">Read back</th>
              <th scope="col">Found</th>
              <th scope="col">As asked for</th>
            </tr>
          </thead>
          <tbody>
            {linesOf(file).map((line) => (
              <tr key={line.title}>
                <th scope="row">{line.title}</th>
                <td>{line.found}</td>
                <td>{line.outcome}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
      {file.measured.tries.length > 0 && (
        <ol className="back-off" aria-label="Back-off, try by try">
          {[
            ...file.measured.tries,
            { gain_db: file.measured.gain_db, true_peak_dbtp: file.measured.true_peak_dbtp },
          ].map((one, at) => (
            <li key={one.gain_db}>
              {at ? "Made again" : "Made"} at <b>{level(one.gain_db, "dB")}</b>: it decodes to{" "}
              {level(one.true_peak_dbtp, "dBTP")}
              {at < file.measured.tries.length ? ", above its ceiling." : "."}
            </li>
          ))}
        </ol>
      )}
      {left && file.there && <AgainstMix pressing={pressing} file={file} mode={mode} />}
      <p className="hash">
        SHA-256 <code>{file.sha256}</code>
      </p>
      <p className="path">{file.path}</p>
    </article>
  );
}
