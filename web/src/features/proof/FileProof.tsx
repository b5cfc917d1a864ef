import { Button } from "antd";
import { downloadUrl, type PressedFile, type Pressing } from "../../api/client";
import { SendFiles } from "../../shared/sending/SendFiles";
import { player, usePlayer } from "../../shared/sound/player";
import { Figures } from "../../shared/text/Figures";
import { bytes, clock, level } from "../../shared/text/format";
import { VerdictMark } from "../../shared/text/Verdict";
import { VERDICTS } from "../../shared/text/words";
import type { Mode } from "../../shared/theme";
import { AgainstMix } from "./AgainstMix";
import { linesOf } from "./lines";
import { PutBack } from "./PutBack";

/** With more files than these, those that hold are folded. */
const MOST_OPEN = 6;
const OUTCOMES = { yes: "pass", no: "fail", measured: "measured" };

const ROUNDS = 20;

const isLoop = (file: PressedFile) =>
  [...file.checks.map((one) => one.rule), ...file.findings.map((one) => one.rule)].includes("loop_seam");

/** The decoded file, again and again without a gap: its seam is heard as it will be. */
function HearLoop({ pressing, file }: { pressing: Pressing; file: PressedFile }) {
  const playing = usePlayer();
  const what = `loop ${pressing.id} ${file.number}`;
  const sounds = playing.status === "playing" && playing.what === what;
  const url = `/api/pressings/${pressing.id}/files/${file.number}/listen?times=${ROUNDS}`;
  return (
    <Button
      aria-pressed={sounds}
      onClick={() =>
        sounds ? player.stop() : player.play(what, url, 0, file.frames, file.sample_rate_hz, ROUNDS)
      }
    >
      {sounds ? "Stop" : "Loop"}
    </Button>
  );
}

interface FileProofProps {
  pressing: Pressing;
  file: PressedFile;
  mode: Mode;
  /** The title of the brief that it was made to. */
  brief: string;
  /** Whether it is selected for playback, and whether any file is: results of the others are then collapsed. */
  chosen: boolean;
  among: boolean;
  /** Whether the comparison with the mix is requested, and the function that requests it. */
  /** Chooses it at the listening desk, and plays; nothing where it cannot be heard. */
  hear: (() => void) | null;
}

/** One file: its verdict, its checks, and its comparison with the mix. */
export function FileProof({ pressing, file, mode, brief, chosen, among, hear }: FileProofProps) {
  const { number } = file;
  const lines = linesOf(file);
  const held = lines.filter((line) => line.outcome !== "measured");
  const open =
    chosen ||
    file.verdict === "stop" ||
    (!among && (file.verdict !== "ready" || pressing.files.length <= MOST_OPEN));
  const left = file.verdict !== "stop";
  return (
    <article className="sheet file-proof" aria-label={file.name}>
      <header>
        <VerdictMark verdict={file.verdict} size={26} />
        <div>
          <h2>{file.name}</h2>
          <p>
            {brief && `${brief} · `}
            {VERDICTS[file.verdict]} · {bytes(file.bytes)} · {clock(file.frames, file.sample_rate_hz)}
          </p>
        </div>
        {left && file.there && (
          <fieldset className="listening" aria-label={`Play ${file.name}`}>
            {hear && <Button onClick={hear}>Play</Button>}
            {isLoop(file) && <HearLoop pressing={pressing} file={file} />}
            <SendFiles pressing={pressing} file={number} />
            <Button type="primary" href={downloadUrl(pressing.id, number)} download={file.name}>
              Download
            </Button>
          </fieldset>
        )}
      </header>
      {left && !file.there && <p role="alert">File moved or deleted.</p>}
      {file.findings.map((finding) => (
        <p key={`${finding.rule} ${finding.field}`} className="finding">
          <VerdictMark verdict={finding.verdict} /> {finding.sentence}
        </p>
      ))}
      {left && file.there && <AgainstMix pressing={pressing} file={file} mode={mode} />}
      <details className="read-back" open={open}>
        <summary>
          Checks{" "}
          <span>
            {held.filter((line) => line.outcome === "yes").length} of {held.length} passed
          </span>
        </summary>
        <Figures
          wide
          lines={lines.map((line) => [
            line.title,
            <>
              {line.found} <small>{OUTCOMES[line.outcome]}</small>
            </>,
            line.outcome === "no" ? "fails" : "",
          ])}
        />
      </details>
      {file.measured.tries.length > 0 && (
        <ol className="back-off" aria-label="Encoding attempts">
          {[
            ...file.measured.tries,
            { gain_db: file.measured.gain_db, true_peak_dbtp: file.measured.true_peak_dbtp },
          ].map((one, at) => (
            <li key={one.gain_db}>
              Attempt {at + 1} at <b>{level(one.gain_db, "dB")}</b>: decodes to{" "}
              {level(one.true_peak_dbtp, "dBTP")}
              {at < file.measured.tries.length ? ", over the ceiling." : "."}
            </li>
          ))}
        </ol>
      )}
      {left && file.there && <PutBack pressing={pressing} file={file} />}
      <p className="hash">
        SHA-256 <code>{file.sha256}</code>
      </p>
      <p className="path">{file.path}</p>
    </article>
  );
}
