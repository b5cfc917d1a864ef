import type { LevelTrial, Mix, Row } from "../../../api/client";
import { useRemembered } from "../../../shared/remembered";
import type { Mode } from "../../../shared/theme";
import { RangeLine } from "../range/RangeLine";
import { RangeTabs } from "../range/RangeTabs";
import type { TimingControl } from "../range/useTiming";
import { useSession, useSetOut } from "../session";
import { Transport } from "../sound/Transport";
import type { Listening } from "../sound/useListening";
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

/** The waveform with everything that belongs to it, in one row above it: playback, ranges, their edges, how it is shown. */
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
    >
      <Transport rateHz={mix.rate_hz} mode={mode} timing={timing.timing} listening={listening} />
      <RangeTabs mix={mix} rows={rows} add={() => addRangeHere(mix, session)} />
      <RangeLine mix={mix} timing={timing}>
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
      </RangeLine>
    </WaveformPanel>
  );
}
