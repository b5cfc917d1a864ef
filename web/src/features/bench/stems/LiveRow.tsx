import { Button, Popconfirm } from "antd";
import type { Mix, PassShown, StemShown } from "../../../api/client";
import { JobProgress } from "../../../shared/jobs/JobProgress";
import { Figures } from "../../../shared/text/Figures";
import { clock, counted, level } from "../../../shared/text/format";
import { useLiveSound, usePassHands } from "./live";

/** A source captured in a live pass: its state, progress, and measurements. */
export function LiveRow({ mix, stem, pass }: { mix: Mix; stem: StemShown; pass: PassShown | undefined }) {
  const hands = usePassHands(mix.id);
  const open = pass?.state === "queued" || pass?.state === "running";
  const error = hands.begin.error ?? hands.stop.error;
  return (
    <div className="live-row">
      {stem.live_s > 0 && !open && (
        <>
          <small>
            Needs a live pass through {stem.unit} ({clock(stem.live_s, 1, 0)}, real time).
          </small>
          <Button
            size="small"
            type="primary"
            loading={hands.begin.isPending}
            onClick={() => hands.begin.mutate(stem.id)}
          >
            Run live pass
          </Button>
        </>
      )}
      {pass?.state === "queued" && (
        <>
          <small>Waiting for {stem.unit}</small>
          <Button size="small" onClick={() => hands.stop.mutate(pass.id)}>
            Cancel
          </Button>
        </>
      )}
      {pass?.state === "running" && (
        <Running stem={stem} pass={pass} stop={() => hands.stop.mutate(pass.id)} />
      )}
      {pass && !open && pass.state !== "done" && stem.live_s > 0 && (
        <small className="over" role="alert">
          {pass.sentence}
        </small>
      )}
      {stem.captured && <Measured stem={stem} rateHz={mix.rate_hz} />}
      {error && (
        <small className="over" role="alert">
          {error.message}
        </small>
      )}
    </div>
  );
}

const inDecibels = (peak: number) => level(peak > 0 ? 20 * Math.log10(peak) : null, "dBFS");

/** A pass that runs: how far, how loud, heard and stopped. */
function Running({ stem, pass, stop }: { stem: StemShown; pass: PassShown; stop: () => void }) {
  const sound = useLiveSound(pass.id);
  const { levels } = pass;
  if (!levels) return <small>Starting …</small>;
  const left = Math.max(0, levels.total - levels.done) / pass.rate_hz;
  return (
    <fieldset className="live-running" aria-label={`Live pass of ${stem.name}`}>
      <JobProgress
        job={levels}
        label={`Live pass of ${stem.name}`}
        doing={`${clock(levels.done, pass.rate_hz, 0)} recorded, ${clock(left, 1, 0)} left`}
      />
      <LiveMeter label="send" peak={levels.sent_peak} />
      <LiveMeter label="return" peak={levels.heard_peak} />
      {(levels.overs > 0 || levels.dropouts > 0) && (
        <small className="over">
          {levels.overs > 0 && `${counted(levels.overs, "clipped sample")}. `}
          {levels.dropouts > 0 && `${counted(levels.dropouts, "dropout")}.`}
        </small>
      )}
      <span className="stem-acts">
        <Button
          size="small"
          aria-pressed={sound.listening}
          onClick={sound.listening ? sound.stop : sound.start}
        >
          {sound.listening ? "Stop listening" : "Listen"}
        </Button>
        <Popconfirm
          title="Stop and keep the recording so far?"
          okText="Stop"
          cancelText="Continue"
          onConfirm={stop}
        >
          <Button size="small">Stop and keep</Button>
        </Popconfirm>
      </span>
      {sound.problem && <small className="over">{sound.problem}</small>}
    </fieldset>
  );
}

/** The loudest of the last moment, from −60 dBFS to full scale. */
function LiveMeter({ label, peak }: { label: string; peak: number }) {
  const db = peak > 0 ? 20 * Math.log10(peak) : -120;
  const share = Math.max(0, Math.min(1, (db + 60) / 60));
  return (
    <span className="live-meter">
      <small>{label}</small>
      <span className={peak >= 1 ? "live-bar live-over" : "live-bar"} aria-hidden="true">
        <i style={{ width: `${share * 100}%` }} />
      </span>
      <small>{inDecibels(peak)}</small>
    </span>
  );
}

const KINDS = {
  counter: "reported by the unit",
  silent: "silent",
  slip: "not reported by the unit",
} as const;
const MOST_SHOWN = 4;

/** Measurements of the pass of a capture. */
function Measured({ stem, rateHz }: { stem: StemShown; rateHz: number }) {
  const found = stem.captured;
  if (!found) return null;
  const late = Math.round(found.latency_frames);
  const after = found.latency_after_frames === null ? null : Math.round(found.latency_after_frames);
  const clockSays =
    found.drift_ppm === null
      ? "not measured"
      : `${level(found.drift_ppm, "ppm")}${found.drift_corrected ? ", corrected" : ""}`;
  const latency = `${counted(late, "sample")} · ${((late / rateHz) * 1000).toFixed(1)} ms`;
  const moved = after !== null && after !== late ? `, ${after.toLocaleString("en-GB")} at the end` : "";
  const overs = found.overs ? ` · ${found.overs.toLocaleString("en-GB")} clipped` : "";
  const dropouts = found.dropouts
    .slice(0, MOST_SHOWN)
    .map((one) => `${clock(one.start_frame, rateHz)}, ${Math.abs(one.frames)} samples ${KINDS[one.kind]}`);
  const more = found.dropouts.length > MOST_SHOWN ? ` and ${found.dropouts.length - MOST_SHOWN} more` : "";
  return (
    <Figures
      lines={[
        ["Latency", `${latency}${moved}`],
        ["Clock drift", clockSays],
        ["Peak", `${level(found.peak_dbfs, "dBFS")}${overs}`, found.overs ? "fails" : ""],
        [
          "Dropouts",
          dropouts.length ? `${dropouts.join("; ")}${more}` : "none",
          dropouts.length ? "fails" : "",
        ],
      ]}
    />
  );
}
