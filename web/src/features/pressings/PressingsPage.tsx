import { Button, Checkbox } from "antd";
import { Link, useParams } from "react-router";
import { api, type PressView } from "../../api/client";
import { useCommands } from "../../shared/commands/commands";
import { usePressingAction } from "../../shared/jobs/useAction";
import { bytes } from "../../shared/text/format";
import { PressingSide } from "./PressingSide";
import { usePressView, useRecord } from "./queries";
import { FIND_PRESSING, RecordTable } from "./RecordTable";
import { Running } from "./Running";
import { Waiting } from "./Waiting";
import { files, offBy } from "./words";

export function PressingsPage() {
  const { pressingId } = useParams();
  const view = usePressView();
  const set = usePressingAction(api.setPress);
  const newest = useRecord("", "").data?.pages[0]?.rows[0]?.id ?? null;
  const chosen = pressingId ? Number(pressingId) : newest;
  const { paused = false, open = [] } = view.data ?? {};
  useCommands([
    {
      name: paused ? "Resume queue" : "Pause queue",
      key: "p",
      run: () => set.mutate({ paused: !paused }),
    },
    { name: "Search pressings", key: "f", run: () => document.getElementById(FIND_PRESSING)?.focus() },
  ]);
  const running = open.filter((one) => one.state === "running");
  const waiting = open.filter((one) => one.state !== "running");
  const state = view.data && [
    `${view.data.cores} cores`,
    view.data.free_bytes === null
      ? "output folder missing"
      : `${bytes(view.data.free_bytes)} free in the output folder`,
    offBy(view.data.off_by),
  ];
  return (
    <div className="press">
      <header className="page-head">
        <h1>Pressings</h1>
        <p>Queue and history</p>
        <span className="press-head quiet">{state?.filter(Boolean).join(" · ")}</span>
        <Button onClick={() => set.mutate({ paused: !paused })} disabled={!view.data}>
          {paused ? "Resume" : "Pause"}
        </Button>
      </header>
      <section className="sheet press-now" aria-label="Now">
        {paused && (
          <p className="press-paused" role="status">
            Queue paused.
          </p>
        )}
        {running.map((pressing) => (
          <Running key={pressing.id} pressing={pressing} held={paused} />
        ))}
        {view.error && <p role="alert">{view.error.message}</p>}
        {view.data && !open.length && <p className="press-idle quiet">No pressings in the queue.</p>}
        <Waiting pressings={waiting} />
        {view.data && <NotAsPressed fixity={view.data.fixity} />}
        {view.data && (
          <Checkbox
            className="press-goes-on"
            checked={view.data.fixity.nightly}
            onChange={(event) => set.mutate({ nightly: event.target.checked })}
          >
            Check all pressed files for changes every night
          </Checkbox>
        )}
        {view.data && (
          <Checkbox
            className="press-goes-on"
            checked={view.data.compares_idle}
            onChange={(event) => set.mutate({ compares_idle: event.target.checked })}
          >
            Compare pressed files with their mix when idle
          </Checkbox>
        )}
        {view.data && (
          <Checkbox
            className="press-goes-on"
            checked={view.data.goes_on}
            onChange={(event) => set.mutate({ goes_on: event.target.checked })}
          >
            Resume interrupted pressings at start-up
          </Checkbox>
        )}
      </section>
      <div className="press-record">
        <RecordTable chosen={chosen} />
        {chosen !== null && <PressingSide id={chosen} />}
      </div>
    </div>
  );
}

function NotAsPressed({ fixity }: { fixity: PressView["fixity"] }) {
  const { changed, gone, pressings } = fixity;
  if (!changed && !gone) return null;
  const parts = [changed ? `${files(changed)} changed` : "", gone ? `${files(gone)} missing` : ""];
  return (
    <p className="press-changed" role="alert">
      {parts.filter(Boolean).join(", ")} since pressing. See{" "}
      {pressings.map((number, at) => (
        <span key={number}>
          {at > 0 && ", "}
          <Link to={`/press/${number}`}>no. {number}</Link>
        </span>
      ))}
      .
    </p>
  );
}
