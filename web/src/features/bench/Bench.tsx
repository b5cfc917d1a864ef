import { Modal } from "antd";
import type { Mix, Row } from "../../api/client";
import { ChangeNote } from "../../shared/ChangeNote";
import type { Mode } from "../../shared/theme";
import { useChange } from "../../shared/useChanges";
import { BenchHead } from "./BenchHead";
import { BenchParts } from "./BenchParts";
import { KeySheet } from "./KeySheet";
import { sameBench } from "./model";
import { DeliveryPanel } from "./panel/DeliveryPanel";
import { useKeptBench, useLevelTrial, usePressing, useTicket, useTrials } from "./queries";
import { useTiming } from "./range/useTiming";
import { rowOf, useBench, useRange, useSession, useSetOut } from "./session";
import { useListening } from "./sound/useListening";
import { StemsPanel } from "./stems/StemsPanel";
import { useBringing } from "./stems/useBringing";
import { AddDelivery } from "./ticket/AddDelivery";
import { PressBar } from "./ticket/PressBar";
import { useRows } from "./ticket/useRows";
import { TicketTree } from "./tree/TicketTree";
import { useBenchKeys } from "./useBenchKeys";
import { useFieldCommands } from "./useFieldCommands";
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
  const { rows: shown, waits } = useRows(ticket.data);
  const row = rowOf(shown, station);
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
  const trials = useTrials(
    mix,
    bench,
    rows,
    (WEIGHED.has(station.kind) && !waits.has(row?.line_id ?? "") && row?.id) || null,
  );
  const close = () => session.show({ dialog: "none" });
  useBenchKeys(mix, rows, listening, timing, pressing);
  useFieldCommands(row);
  const bringing = useBringing(mix, session);
  const change = useChange(mix.id);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has a button and a path field beside it
    <div className="bench" onDragOver={(event) => event.preventDefault()} onDrop={bringing.drop}>
      <BenchParts
        head={
          <>
            <BenchHead mix={mix} timing={timing} />
            {change && <ChangeNote change={change} title={mix.title} />}
          </>
        }
        files={bench.ticket.length}
        ranges={bench.ranges.length}
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
            {ticket.data && (
              <TicketTree
                mix={mix}
                rows={shown}
                refused={ticket.data.refused.filter((one) => !waits.has(one.line_id))}
              />
            )}
            {ticket.error && (
              <p className="field-error" role="alert">
                {ticket.error.message}
              </p>
            )}
          </section>
        }
        station={
          <section className="sheet panel" aria-label="Delivery">
            {station.kind === "stems" && <StemsPanel mix={mix} {...bringing} />}
            {row && station.kind !== "stems" && (
              <DeliveryPanel
                key={row.id}
                mix={mix}
                mode={mode}
                row={row}
                rows={shown}
                waits={waits.get(row.line_id)}
                kind={station.kind}
                listening={listening}
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
