import { useMemo } from "react";
import { api, type Mix } from "../../../api/client";
import { useRemembered } from "../../../shared/remembered";
import { player } from "../../../shared/sound/player";
import { type Snap, snapped, type Unit } from "../../../shared/time/timeUnits";
import { withNewMarker } from "../model";
import { useBars, useSounding } from "../queries";
import { useSession, useSetOut } from "../session";

const NO_BARS: never[] = [];

/** In what unit places are shown, and what they snap to; both are remembered, and bars count only where there are any. */
export function useTiming(mix: Mix) {
  const session = useSession();
  const { tempo, markers, silence_dbfs: silence } = useSetOut();
  const [wantedUnit, setUnit] = useRemembered<Unit>("unit", "time");
  const [wantedSnap, setSnap] = useRemembered<Snap>("snap", "off");
  const bars = useBars(mix.id, tempo).data ?? NO_BARS;
  const unit = wantedUnit === "bars" && !tempo ? "time" : wantedUnit;
  const snap = (wantedSnap === "bars" || wantedSnap === "beats") && !tempo ? "off" : wantedSnap;
  const timing = useMemo(() => ({ unit, bars, tempo }), [unit, bars, tempo]);
  const sounding = useSounding(mix, silence).data;
  const snapTo = {
    snap,
    bars,
    markers: markers.map((marker) => marker.frame),
    sound: sounding ? [sounding.start_frame, sounding.end_frame] : [],
    rateHz: mix.rate_hz,
  };
  return {
    timing,
    snapTo,
    unit,
    setUnit,
    snap,
    setSnap,
    /** Moves an edge of the chosen range to a place, snapped unless that is not wanted; gives the sentence when it cannot. */
    setEdge: async (edge: "start" | "end", frame: number, free = false) => {
      const { id } = session.range();
      const near = async () => (await api.zeroCrossing(mix.id, frame).catch(() => ({ frame }))).frame;
      return session.setEdge(
        edge,
        free ? frame : snap === "zero" ? await near() : snapped(frame, snapTo),
        id,
      );
    },
    addMarker: () => {
      const at = player.position() ?? session.store.getState().cursor;
      session.set(withNewMarker(session.bench(), snapped(at, snapTo)));
    },
  };
}

export type TimingControl = ReturnType<typeof useTiming>;
