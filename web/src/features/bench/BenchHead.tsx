import { Button, Dropdown } from "antd";
import { Link, useNavigate } from "react-router";
import type { Mix } from "../../api/client";
import { usePlayer } from "../../shared/sound/player";
import { clock, level, rate } from "../../shared/text/format";
import { withMarkers, withTempo } from "./model";
import { MarkerList } from "./range/MarkerList";
import { TempoEditor } from "./range/TempoEditor";
import type { TimingControl } from "./range/useTiming";
import { useBench, useSession, useSetOut } from "./session";
import { useStems } from "./stems/queries";

/** Facts of the mix, its stems and markers, undo and redo. */
export function BenchHead({ mix, timing }: { mix: Mix; timing: TimingControl }) {
  const playing = usePlayer();
  const session = useSession();
  const bench = useSetOut();
  const go = useNavigate();
  const over = mix.measures.samples_over_full_scale > 0;
  return (
    <>
      <header className="bench-head">
        <h1>{mix.title}</h1>
        <p>
          <b>{clock(mix.frames, mix.rate_hz)}</b> · <b>{rate(mix.rate_hz)}</b> · <b>{mix.depth_label}</b> ·{" "}
          {mix.channels === 1 && "mono · "}
          {level(mix.measures.integrated_lufs, "LUFS")} · peak{" "}
          <b className={over ? "over" : ""}>{level(mix.measures.sample_peak_dbfs)}</b>
        </p>
        <fieldset className="bench-acts" aria-label="Mix">
          <TempoEditor
            mix={mix}
            bench={bench}
            timing={timing.timing}
            setTempo={(tempo) => session.set(withTempo(session.bench(), tempo))}
          />
          <StemsButton mix={mix} />
          <MarkerList
            mix={mix}
            bench={bench}
            timing={timing.timing}
            setMarkers={(markers) => session.set(withMarkers(session.bench(), markers))}
            show={session.setCursor}
            add={timing.addMarker}
          />
          <Steps />
          <Dropdown
            trigger={["click"]}
            menu={{
              items: [
                { key: "desk", label: <Link to={`/desk/${mix.id}`}>Listening desk</Link> },
                { key: "keys", label: "Keyboard shortcuts" },
              ],
              onClick: ({ key }) =>
                key === "keys" ? session.show({ dialog: "keys" }) : go(`/desk/${mix.id}`),
            }}
          >
            <Button size="small" aria-label="Show more" title="Listening desk, shortcuts">
              ⋯
            </Button>
          </Dropdown>
        </fieldset>
      </header>
      {playing.status === "failed" && (
        <p className="field-error" role="alert">
          {playing.message}
        </p>
      )}
    </>
  );
}

/** Opens the stems of the mix. */
function StemsButton({ mix }: { mix: Mix }) {
  const session = useSession();
  const station = useBench((view) => view.station);
  const count = useStems(mix.id).data?.stems.length ?? 0;
  const shown = station.kind === "stems";
  return (
    <Button
      size="small"
      aria-pressed={shown}
      aria-keyshortcuts="b"
      onClick={() => session.show({ station: { ...station, kind: shown ? "depth" : "stems" } })}
    >
      {count ? `Stems (${count})` : "Stems"}
    </Button>
  );
}

function Steps() {
  const session = useSession();
  const past = useBench((view) => view.history.past.length > 0);
  const future = useBench((view) => view.history.future.length > 0);
  return (
    <>
      <Button size="small" disabled={!past} aria-keyshortcuts="Control+z" onClick={session.undo}>
        Undo
      </Button>
      <Button size="small" disabled={!future} aria-keyshortcuts="Control+Shift+z" onClick={session.redo}>
        Redo
      </Button>
    </>
  );
}
