import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Select, Switch } from "antd";
import { useId, useState } from "react";
import { api, type BurnRequest, type BurnView, type DiscRow, logSheetUrl } from "../../api/client";
import { JobProgress } from "../../shared/jobs/JobProgress";
import { usePressingAction } from "../../shared/jobs/useAction";
import { VerdictMark } from "../../shared/text/Verdict";

const KINDS: { value: BurnRequest["kind"]; label: string }[] = [
  { value: "cdr80", label: "CD-R, 80 minutes" },
  { value: "cdr74", label: "CD-R, 74 minutes" },
  { value: "cdrw80", label: "CD-RW, 80 minutes" },
];
const SPEEDS: BurnRequest["speed"][] = [4, 8, 16, 24, 48];

/** The disc that was made of a pressing, and the writer that it is burnt in. */
export function DiscMade({ pressing, disc }: { pressing: number; disc: DiscRow }) {
  return (
    <section className="disc-made" aria-label="Disc">
      <h3>
        <VerdictMark verdict={disc.verdict} size={15} /> Disc: {disc.tracks} tracks, {disc.lead_out}
      </h3>
      <p>
        {disc.holds} of {disc.checks} disc checks passed. {disc.sentences.join(" ")}
      </p>
      <p className="path">{disc.folder}</p>
      <p>
        {disc.image}, {disc.cue}, <a href={logSheetUrl(pressing)}>log sheet</a>
      </p>
      <Burner pressing={pressing} />
    </section>
  );
}

function Burner({ pressing }: { pressing: number }) {
  const queries = useQueryClient();
  const key = ["burns", pressing];
  const burn = useQuery({ queryKey: key, queryFn: () => api.burn(pressing) });
  const [wish, setWish] = useState<BurnRequest>({
    kind: "cdr80",
    speed: 16,
    simulate: false,
    finalize: true,
  });
  const begin = usePressingAction(
    (what: BurnRequest) => api.beginBurn(pressing, what),
    (made) => queries.setQueryData(key, made),
  );
  const cancel = usePressingAction(() => api.cancelBurn(pressing));
  const now = burn.data;
  if (now?.state === "running")
    return (
      <JobProgress
        job={now}
        label="Burn"
        doing={now.doing === "verifying" ? "Verifying" : "Burning"}
        cancel={() => cancel.mutate(undefined)}
      />
    );
  return (
    <div className="burner">
      {now && <Outcome burn={now} />}
      <Select
        size="small"
        aria-label="Disc type"
        value={wish.kind}
        options={KINDS}
        onChange={(kind) => setWish({ ...wish, kind })}
      />
      <Select
        size="small"
        aria-label="Speed"
        value={wish.speed}
        options={SPEEDS.map((value) => ({ value, label: `${value}×` }))}
        onChange={(speed) => setWish({ ...wish, speed })}
      />
      <Choice
        label="Test burn (laser off)"
        on={wish.simulate}
        set={(simulate) => setWish({ ...wish, simulate })}
      />
      <Choice label="Finalise" on={wish.finalize} set={(finalize) => setWish({ ...wish, finalize })} />
      <Button onClick={() => begin.mutate(wish)} loading={begin.isPending}>
        Burn
      </Button>
      <small>Simulated writer: burns to a folder and reads it back.</small>
    </div>
  );
}

function Choice({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
  const id = useId();
  return (
    <label htmlFor={id}>
      <Switch id={id} size="small" checked={on} onChange={set} /> {label}
    </label>
  );
}

function Outcome({ burn }: { burn: BurnView }) {
  const good = burn.state === "done" && !burn.wrong_frames;
  return (
    <div className="burn-outcome" role="status">
      <VerdictMark verdict={good ? "ready" : "stop"} size={15} /> {burn.worth || burn.sentence}
      {burn.wrong.length > 0 && (
        <ul>
          {burn.wrong.slice(0, 5).map((one) => (
            <li key={`${one.track}-${one.at_s}`}>{one.sentence}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
