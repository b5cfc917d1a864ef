import { Modal } from "antd";
import type { Mix, Row } from "../../api/client";
import { ChangeNote } from "../../shared/ChangeNote";
import type { Mode } from "../../shared/theme";
import { useChange } from "../../shared/useChanges";
import { BenchHead } from "./BenchHead";
import { BenchParts } from "./BenchParts";
import { KeySheet } from "./KeySheet";
import { sameBench, withTempo } from "./model";
import { StationPanel } from "./panel/StationPanel";
import { useKeptBench, useLevelTrial, usePressing, useTicket, useTrials } from "./queries";
import { TempoEditor } from "./range/TempoEditor";
import { useTiming } from "./range/useTiming";
import { rowOf, useBench, useRange, useSession, useSetOut } from "./session";
import { useListening } from "./sound/useListening";
import { StemsPanel } from "./stems/StemsPanel";
import { useBringing } from "./stems/useBringing";
import { AddDelivery } from "./ticket/AddDelivery";
import { PressBar } from "./ticket/PressBar";
import { TicketTree } from "./ticket/TicketTree";
import { useBenchKeys } from "./useBenchKeys";
import { WavePart } from "./wave/WavePart";

const NO_ROWS: readonly Row[] = [];
/** Stations at which one asks what the codec does. */
const WEIGHED = new Set(["codec", "name"]);

/** The bench of one mix: its waveform, its ticket, the chosen station, and the press. */
export function Bench({ mix, mode }: { mix: Mix; mode: Mode }) {
  const session = useSession();
  const bench = useSetOut();
  const range = useRange();
  const station = useBench((view) => view.station);
  const dialog = useBench((view) => view.dialog);
  const ticket = useTicket(mix, bench);
  const rows = ticket.data?.rows ?? NO_ROWS;
  const row = rowOf(rows, station);
  const pressing = usePressing(mix.id);
  const notKept = useKeptBench(mix, session);
  const timing = useTiming(mix);
  const heardEnd = Math.max(
    range.end_frame,
    rows.find((one) => one.range_id === range.id)?.heard_end_frame ?? range.end_frame,
  );
  const listening = useListening(
    mix,
    session,
    () => heardEnd,
    () => {
      const { kept, history } = session.store.getState();
      const known = sameBench(kept, history.present);
      return known && row?.range_id === session.range().id ? row.id : "";
    },
  );
  const levels = useLevelTrial(mix, bench);
  const trials = useTrials(mix, bench, rows, (WEIGHED.has(station.kind) && row?.id) || null);
  const close = () => session.show({ dialog: "none" });
  useBenchKeys(mix, rows, listening, timing, pressing);
  const bringing = useBringing(mix, session);
  const change = useChange(mix.id);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has a button and a path field beside it
    <div className="bench" onDragOver={(event) => event.preventDefault()} onDrop={bringing.drop}>
      <BenchHead mix={mix} showKeys={() => session.show({ dialog: "keys" })}>
        <TempoEditor
          mix={mix}
          bench={bench}
          timing={timing.timing}
          setTempo={(tempo) => session.set(withTempo(session.bench(), tempo))}
        />
      </BenchHead>
      {change && <ChangeNote change={change} title={mix.title} />}
      <BenchParts
        files={bench.ticket.length}
        wave={
          <WavePart
            mix={mix}
            mode={mode}
            rows={rows}
            timing={timing}
            heardEnd={heardEnd}
            listening={listening}
            reduction={row && levels.of(row.id).result}
          />
        }
        ticket={
          <section className="sheet" aria-label="Ticket">
            {ticket.data && <TicketTree mix={mix} rows={rows} refused={ticket.data.refused} />}
            {ticket.error && (
              <p className="field-error" role="alert">
                {ticket.error.message}
              </p>
            )}
          </section>
        }
        station={
          <section className="sheet panel" aria-label="Station" key={`${row?.id} ${station.kind}`}>
            {station.kind === "stems" && <StemsPanel mix={mix} {...bringing} />}
            {row && station.kind !== "stems" && (
              <StationPanel
                mix={mix}
                mode={mode}
                row={row}
                kind={station.kind}
                codecTrial={trials.get(row.id)}
                levels={levels}
              />
            )}
          </section>
        }
      />
      <AddDelivery
        mix={mix}
        parted={dialog === "parts"}
        bench={bench}
        rows={rows}
        chosenId={range.id}
        open={dialog === "add" || dialog === "parts"}
        close={close}
        add={session.addLines}
      />
      <PressBar ticket={ticket.data} pressing={pressing} mix={mix} notKept={notKept} />
      <Modal title="Keyboard shortcuts" open={dialog === "keys"} footer={null} onCancel={close}>
        <KeySheet />
      </Modal>
    </div>
  );
}
