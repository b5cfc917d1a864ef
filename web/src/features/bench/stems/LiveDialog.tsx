import { Button, Modal } from "antd";
import { useState } from "react";
import type { LiveSource, Mix, UnitShown } from "../../../api/client";
import { clock } from "../../../shared/text/format";
import { THE_MIX } from "../model";
import { LiveForm } from "./LiveForm";
import { usePassHands, useRack } from "./live";

const PROBES_S = 2.4;

/** A real-time source: its unit, the sent signal, and the settings of its pass. */
export function LiveDialog({ mix, open, close }: { mix: Mix; open: boolean; close: () => void }) {
  const rack = useRack(open);
  const { make, begin } = usePassHands(mix.id);
  const [address, setAddress] = useState<string | null>(null);
  const [wish, setWish] = useState<Omit<LiveSource, "address">>(NEW);
  const there = (rack.data ?? []).filter((one) => one.unit);
  const unit: UnitShown | undefined = there.find((one) => one.address === address) ?? there[0];
  const set = (part: Partial<LiveSource>) => setWish({ ...wish, ...part });
  const plays = unit?.unit === "instrument";
  const done = () => {
    setWish(NEW);
    make.reset();
    close();
  };
  const put = (run: boolean) => {
    if (!unit) return;
    make.mutate(
      { ...wish, address: unit.address },
      {
        onSuccess: ({ stem }) => {
          if (run) begin.mutate(stem);
          done();
        },
      },
    );
  };
  return (
    <Modal
      title="New live pass"
      open={open}
      onCancel={done}
      footer={
        <>
          <Button onClick={done}>Close</Button>
          <Button
            disabled={!unit || (plays && !wish.score)}
            loading={make.isPending}
            onClick={() => put(false)}
          >
            Add only
          </Button>
          <Button
            type="primary"
            disabled={!unit || (plays && !wish.score)}
            loading={make.isPending}
            onClick={() => put(true)}
          >
            Run now
          </Button>
        </>
      }
    >
      <p>Record outboard or an instrument in real time. Latency is removed; use the capture like a stem.</p>
      {rack.data && !there.length && (
        <p role="alert" className="field-error">
          {rack.data[0]?.sentence ?? "No unit connected."}
        </p>
      )}
      {unit && <LiveForm mix={mix} units={there} unit={unit} choose={setAddress} wish={wish} set={set} />}
      <p className="quiet">
        Takes {clock(mix.frames + PROBES_S * mix.rate_hz, mix.rate_hz, 0)} with test signals. Passes on one
        unit run one after another.
      </p>
      {make.error && (
        <p role="alert" className="field-error">
          {make.error.message}
        </p>
      )}
    </Modal>
  );
}

const NEW: Omit<LiveSource, "address"> = {
  name: "",
  part: THE_MIX,
  finish: false,
  score: "",
  correct_drift: true,
  on_dropout: "go-on",
  stop_on_over: false,
  send_gain_db: 0,
};
