import { Button } from "antd";
import type { LevelTrial, Mix, Row } from "../../../api/client";
import { useRemembered } from "../../../shared/remembered";
import type { Mode } from "../../../shared/theme";
import { withMarkers } from "../model";
import { MarkerList } from "../range/MarkerList";
import { RangeLine } from "../range/RangeLine";
import { RangeTabs } from "../range/RangeTabs";
import type { TimingControl } from "../range/useTiming";
import { useBench, useSession, useSetOut } from "../session";
import { Transport } from "../sound/Transport";
import type { Listening } from "../sound/useListening";
import { useStems } from "../stems/queries";
import { addRangeHere } from "../useBenchKeys";
import { WaveformPanel } from "./WaveformPanel";
import { WaveTools } from "./WaveTools";

interface WavePartProps {
  mix: Mix;
  mode: Mode;
  rows: readonly Row[];
  timing: TimingControl;
  heardEnd: number;
  listening: Listening;
  reduction: LevelTrial | undefined;
}

/** The waveform with everything that belongs to it: ranges, times, markers, how it is shown, undo. */
export function WavePart({ mix, mode, rows, timing, heardEnd, listening, reduction }: WavePartProps) {
  const session = useSession();
  const bench = useSetOut();
  const [decibels, setDecibels] = useRemembered("decibels", false);
  return (
    <WaveformPanel
      mix={mix}
      mode={mode}
      timing={timing}
      heardEnd={heardEnd}
      decibels={decibels}
      reduction={reduction}
      listening={listening}
      transport={<Transport rateHz={mix.rate_hz} mode={mode} timing={timing.timing} listening={listening} />}
      tabs={<RangeTabs mix={mix} rows={rows} add={() => addRangeHere(mix, session)} />}
    >
      <RangeLine mix={mix} rows={rows} timing={timing} />
      <span className="wave-tools">
        <StemsButton mix={mix} />
        <MarkerList
          mix={mix}
          bench={bench}
          timing={timing.timing}
          setMarkers={(markers) => session.set(withMarkers(session.bench(), markers))}
          show={session.setCursor}
          add={timing.addMarker}
        />
        <WaveTools
          unit={timing.unit}
          setUnit={timing.setUnit}
          snap={timing.snap}
          setSnap={timing.setSnap}
          decibels={decibels}
          setDecibels={setDecibels}
          hasTempo={bench.tempo !== null}
          hasMarkers={bench.markers.length > 0}
        />
        <Steps />
      </span>
    </WaveformPanel>
  );
}

/** Opens the stems of the mix. */
function StemsButton({ mix }: { mix: Mix }) {
  const session = useSession();
  const station = useBench((view) => view.station);
  const count = useStems(mix.id).data?.stems.length ?? 0;
  return (
    <Button
      size="small"
      aria-pressed={station.kind === "stems"}
      aria-keyshortcuts="b"
      onClick={() => session.show({ station: { ...station, kind: "stems" } })}
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
      <Button size="small" type="text" disabled={!past} onClick={session.undo}>
        Undo
      </Button>
      <Button size="small" type="text" disabled={!future} onClick={session.redo}>
        Redo
      </Button>
    </>
  );
}
