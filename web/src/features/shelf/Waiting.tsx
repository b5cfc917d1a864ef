import { useMutation } from "@tanstack/react-query";
import { Button } from "antd";
import { type Arrival, api } from "../../api/client";
import type { Sending } from "../../shared/files/uploads";
import { JobProgress } from "../../shared/jobs/JobProgress";

interface WaitingProps {
  arrivals: readonly Arrival[];
  sending: readonly Sending[];
  dismiss: (key: number) => void;
  onChange: () => void;
}

const MOST_SHOWN = 6;

/** Files on their way to the shelf: the first few with how far they are, the others counted. */
export function Waiting({ arrivals, sending, dismiss, onChange }: WaitingProps) {
  const total = arrivals.length + sending.length;
  if (!total) return null;
  // Tasks for the user come before running ones.
  const reading = [...arrivals].sort((one, other) => rank(one) - rank(other));
  const sent = [...sending].sort((one, other) => Number(!!other.error) - Number(!!one.error));
  const room = Math.max(0, MOST_SHOWN - Math.min(reading.length, MOST_SHOWN));
  const more = total - Math.min(reading.length, MOST_SHOWN) - Math.min(sent.length, room);
  return (
    <ul className="on-their-way" aria-label="Importing">
      {reading.slice(0, MOST_SHOWN).map((arrival) => (
        <ArrivalCard key={arrival.id} arrival={arrival} onChange={onChange} />
      ))}
      {sent.slice(0, room).map((one) => (
        <SendingCard
          key={one.key}
          name={one.name}
          share={one.share}
          error={one.error}
          onClose={() => dismiss(one.key)}
        />
      ))}
      {more > 0 && <li className="on-their-way-more quiet">and {more.toLocaleString("en")} more</li>}
    </ul>
  );
}

const rank = (arrival: Arrival) => (arrival.state !== "running" ? 0 : arrival.done ? 1 : 2);

function ArrivalCard({ arrival, onChange }: { arrival: Arrival; onChange: () => void }) {
  const dismiss = useMutation({ mutationFn: () => api.dismiss(arrival.id), onSuccess: onChange });
  const failed = arrival.state !== "running";
  return (
    <li className={`card${failed ? " card-refused" : ""}`}>
      <h2>{arrival.name}</h2>
      {failed ? (
        <>
          <p role="alert">{arrival.sentence}</p>
          <Button size="small" loading={dismiss.isPending} onClick={() => dismiss.mutate()}>
            Close
          </Button>
        </>
      ) : (
        <JobProgress
          job={arrival}
          label={`Reading ${arrival.name}`}
          doing="Reading and measuring"
          cancel={() => dismiss.mutate()}
        />
      )}
    </li>
  );
}

interface SendingProps {
  name: string;
  share: number;
  error: string | null;
  onClose: () => void;
}

function SendingCard({ name, share, error, onClose }: SendingProps) {
  return (
    <li className={`card${error ? " card-refused" : ""}`}>
      <h2>{name}</h2>
      {error ? (
        <>
          <p role="alert">{error}</p>
          <Button size="small" onClick={onClose}>
            Close
          </Button>
        </>
      ) : (
        <JobProgress job={{ done: share, total: 1 }} label={`Uploading ${name}`} doing="Uploading" />
      )}
    </li>
  );
}
