import { Button } from "antd";
import { Link } from "react-router";
import { api, type Parcel } from "../../api/client";
import { JobProgress } from "../../shared/jobs/JobProgress";
import { useSendAction } from "../../shared/jobs/useAction";
import { Accepting } from "../../shared/sending/Accepting";
import { bytes } from "../../shared/text/format";
import { when } from "../../shared/text/pressings";
import { VerdictMark } from "../../shared/text/Verdict";
import { TRANSFERS } from "../../shared/text/words";
import { receipt, standing } from "./words";

function StateMark({ state }: { state: Parcel["state"] }) {
  if (state === "asks") return <VerdictMark verdict="look" size={15} />;
  if (state === "accepted") return <VerdictMark verdict="ready" size={15} />;
  if (state === "refused" || state === "failed") return <VerdictMark verdict="stop" size={15} />;
  const inside = {
    sending: "M10 14V6M6.5 9.5L10 6l3.5 3.5",
    taken: "M6 10.5l3 3 5.5-6",
    held: "M8 7v6M12 7v6",
  }[state as "sending" | "taken" | "held"];
  return (
    <svg className="parcel-mark" width="15" height="15" viewBox="0 0 20 20" aria-hidden="true">
      <circle cx="10" cy="10" r="8.5" fill="none" stroke="currentColor" strokeWidth="1.8" />
      {inside && <path d={inside} fill="none" stroke="currentColor" strokeWidth="1.8" />}
      {state === "recalled" && <path d="M6 10h8" stroke="currentColor" strokeWidth="1.8" />}
    </svg>
  );
}

/** One transfer: file, drop-off, state, answer, and actions; those that ask `alike` are signed off at the first. */
export function ParcelLine({ parcel, alike }: { parcel: Parcel; alike: readonly Parcel[] }) {
  const accept = useSendAction(({ by, because }: { by: string; because: string }) =>
    Promise.all(alike.map((one) => api.acceptParcel(one.id, by, because))),
  );
  const hold = useSendAction(() => api.holdParcel(parcel.id));
  const recall = useSendAction(() => api.recallParcel(parcel.id));
  const goOn = useSendAction(() => api.goOnWithParcel(parcel.id));
  const { state, name } = parcel;
  const again = { waiting: "Retry now", held: "Resume", refused: "Resend", failed: "Resend" }[
    state as "waiting" | "held" | "refused" | "failed"
  ];
  const given = state === "refused" ? "" : receipt(parcel);
  const notes = [
    parcel.accepted_by && `Signed off by ${parcel.accepted_by}: ${parcel.because}`,
    given && `Receipt ${given}`,
  ].filter(Boolean);
  const details = standing(parcel);
  return (
    <li className="parcel" aria-label={`${name} to ${parcel.drop_off}`}>
      <StateMark state={state} />
      <span className="parcel-what">
        <b title={parcel.path}>{name}</b>
        <span className="quiet">
          {" "}
          to {parcel.drop_off} · {bytes(parcel.bytes)} · {when(parcel.made_at)}
          {parcel.pressing !== null && (
            <>
              {" · "}
              <Link to={`/proof/${parcel.pressing}`}>pressing {parcel.pressing}</Link>
            </>
          )}
        </span>
        <span className={`parcel-said parcel-${state}`}>
          <b>{TRANSFERS[state]}</b>
          {details && state !== "refused" && <>. {details}</>}
          {state === "refused" && !parcel.reasons.length && <>. {details}</>}
        </span>
        {state === "refused" && (
          <ul className="parcel-reasons">
            {parcel.reasons.map((reason) => (
              <li key={reason.sentence}>{reason.sentence}</li>
            ))}
          </ul>
        )}
        {state === "sending" && parcel.done_bytes > 0 && (
          <JobProgress job={{ done: parcel.done_bytes, total: parcel.bytes }} label={name} doing="" />
        )}
        {notes.length > 0 && (
          <small className="quiet parcel-receipt" title={notes.join("\n")}>
            {notes.join(" · ")}
          </small>
        )}
        {state === "asks" && alike[0] === parcel && (
          <Accepting
            pending={accept.isPending}
            words={alike.length > 1 ? `Sign off and send ${alike.length}` : "Sign off and send"}
            accept={(by, because) => accept.mutate({ by, because })}
          />
        )}
      </span>
      <span className="parcel-acts">
        {state === "refused" && parcel.mix_id !== null && (
          <Link to={`/bench/${parcel.mix_id}`}>Fix on the Bench</Link>
        )}
        {again && parcel.verdict !== "stop" && (
          <Button
            size="small"
            onClick={() => goOn.mutate(undefined as never)}
            aria-label={`${again}: ${name}`}
          >
            {again}
          </Button>
        )}
        {state === "waiting" && (
          <Button
            size="small"
            type="text"
            onClick={() => hold.mutate(undefined as never)}
            aria-label={`Pause ${name}`}
          >
            Pause
          </Button>
        )}
        {["asks", "waiting", "held", "sending"].includes(state) && (
          <Button
            size="small"
            type="text"
            onClick={() => recall.mutate(undefined as never)}
            aria-label={`Cancel ${name}`}
          >
            Cancel
          </Button>
        )}
      </span>
    </li>
  );
}
