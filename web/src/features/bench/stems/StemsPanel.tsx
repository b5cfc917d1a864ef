import { Button } from "antd";
import { useEffect, useState } from "react";
import type { Mix, StemsShown } from "../../../api/client";
import { JobProgress } from "../../../shared/jobs/JobProgress";
import { HandOff } from "../../../shared/sending/NextProgram";
import { counted } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { useBench, useSession } from "../session";
import { BringStems } from "./BringStems";
import { LiveDialog } from "./LiveDialog";
import { LiveRow } from "./LiveRow";
import { usePasses } from "./live";
import { type StemHands, useStemHands, useStems } from "./queries";
import { StemRow } from "./StemRow";

/** The stems of the mix: played alone and together, checked against the mix, aligned, delivered as parts. */
export function StemsPanel({
  mix,
  send,
  sending,
  failed,
}: {
  mix: Mix;
  send: (files: Iterable<File>) => void;
  sending: number;
  failed: readonly string[];
}) {
  const session = useSession();
  const shown = useStems(mix.id);
  const hands = useStemHands(mix.id);
  const heard = useBench((view) => view.heard);
  const all = shown.data?.stems ?? [];
  const stems = all.filter((one) => !one.apart);
  const others = all.filter((one) => one.apart);
  const passes = usePasses(mix.id).data ?? [];
  const [live, setLive] = useState(false);
  // Only stems of the stem sum play instead of the mix, until the user enables more.
  const ids = stems.map((one) => one.id);
  const hearable = all.filter((one) => !one.live_s).map((one) => one.id);
  const gone = heard?.some((id) => !hearable.includes(id)) && shown.data;
  // Removed stems do not play.
  useEffect(() => {
    if (gone) session.show({ heard: heard?.filter((id) => hearable.includes(id)) ?? null });
  });
  const on = heard ?? ids;
  const toggle = (id: number) =>
    session.show({
      heard: hearable.filter((one) => (one === id ? !on.includes(id) || heard === null : on.includes(one))),
    });
  return (
    <>
      <p className="panel-where">Stems and captures</p>
      <h2>{counted(stems.length, "stem")}</h2>
      {stems.length === 0 && <p>Drop a stem folder here to check alignment and the sum.</p>}
      {shown.data && <Check shown={shown.data} hands={hands} />}
      {stems.length > 0 && (
        <>
          <fieldset className="stem-heard" aria-label="Playback source">
            <Button size="small" aria-pressed={heard === null} onClick={() => session.show({ heard: null })}>
              Play mix
            </Button>
            <Button size="small" aria-pressed={heard !== null} onClick={() => session.show({ heard: ids })}>
              Play stems
            </Button>
          </fieldset>
          <ul className="stem-list">
            {stems.map((stem) => (
              <StemRow
                key={stem.id}
                mix={mix}
                stem={stem}
                found={shown.data?.check?.stems.find((one) => one.name === stem.name)}
                on={heard !== null && on.includes(stem.id)}
                alone={heard?.length === 1 && heard[0] === stem.id}
                toggle={() => toggle(stem.id)}
                hearAlone={() =>
                  session.show({ heard: heard?.length === 1 && heard[0] === stem.id ? ids : [stem.id] })
                }
                hands={hands}
              />
            ))}
          </ul>
          <Button size="small" type="primary" onClick={() => session.show({ dialog: "parts" })}>
            Add as deliveries
          </Button>
        </>
      )}
      {others.length > 0 && <h3>Not in the sum</h3>}
      <ul className="stem-list">
        {others.map((stem) => (
          <StemRow
            key={stem.id}
            mix={mix}
            stem={stem}
            found={undefined}
            on={heard?.includes(stem.id) ?? false}
            alone={heard?.length === 1 && heard[0] === stem.id}
            toggle={() => toggle(stem.id)}
            hearAlone={() =>
              session.show({ heard: heard?.length === 1 && heard[0] === stem.id ? null : [stem.id] })
            }
            hands={hands}
          >
            {(stem.live_s > 0 || stem.captured) && (
              <LiveRow mix={mix} stem={stem} pass={passes.find((one) => one.stem_id === stem.id)} />
            )}
          </StemRow>
        ))}
      </ul>
      <Button size="small" onClick={() => setLive(true)}>
        Live pass
      </Button>
      <LiveDialog mix={mix} open={live} close={() => setLive(false)} />
      {shown.data?.reading.map((name) => (
        <p key={name} className="quiet">
          Reading {name}
        </p>
      ))}
      {sending > 0 && <p className="quiet">{`Uploading ${counted(sending, "file")}`}</p>}
      {[...(shown.data?.refused ?? []), ...failed].map((sentence) => (
        <p key={sentence} className="field-error" role="alert">
          {sentence}
        </p>
      ))}
      {(shown.data?.refused.length ?? 0) > 0 && (
        <Button size="small" onClick={() => hands.forget.mutate()}>
          Close
        </Button>
      )}
      <BringStems hands={hands} send={send} />
      <HandOff mix={mix.id} />
      {(hands.error ?? shown.error) && (
        <p className="field-error" role="alert">
          {(hands.error ?? shown.error)?.message}
        </p>
      )}
    </>
  );
}

/** What holding the stems against the mix came to, and what can be done about it. */
function Check({ shown, hands }: { shown: StemsShown; hands: StemHands }) {
  const { check, checking } = shown;
  if (checking)
    return <JobProgress job={checking} label="Checking stems" cancel={() => hands.cancel.mutate()} />;
  if (!shown.stems.length) return null;
  if (!check || check.stale) {
    return (
      <div className="stem-check">
        <span>{check ? "Changed since the last check." : "Not checked yet."}</span>
        <Button size="small" onClick={() => hands.check.mutate()}>
          Check
        </Button>
      </div>
    );
  }
  const late = check.stems.filter((one) => one.in_mix && one.late_frames !== 0).length;
  return (
    <div className="stem-check" role="status">
      <p>
        <VerdictMark verdict={check.lines_up && check.sums ? "ready" : "look"} /> {check.sentence}
      </p>
      {late > 0 && (
        <Button
          size="small"
          type="primary"
          loading={hands.align.isPending}
          onClick={() => hands.align.mutate()}
        >
          Align {counted(late, "stem")}
        </Button>
      )}
    </div>
  );
}
