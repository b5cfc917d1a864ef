import { Button, Form, Modal } from "antd";
import type { LiveSource, Mix, UnitShown } from "../../../api/client";
import { clock } from "../../../shared/text/format";
import { LiveForm } from "./LiveForm";
import { usePassHands, useRack } from "./live";

const PROBES_S = 2.4;

/** A real-time source: its unit, the sent signal, and the settings of its pass. */
export function LiveDialog({ mix, open, close }: { mix: Mix; open: boolean; close: () => void }) {
  const rack = useRack(open);
  const { make, begin } = usePassHands(mix.id);
  const [form] = Form.useForm<LiveSource>();
  const address = Form.useWatch("address", form);
  const score = Form.useWatch("score", { form, preserve: true });
  const there = (rack.data ?? []).filter((one) => one.unit);
  const unit: UnitShown | undefined = there.find((one) => one.address === address) ?? there[0];
  const plays = unit?.unit === "instrument";
  const done = () => {
    form.resetFields();
    make.reset();
    close();
  };
  const put = (run: boolean) => {
    if (!unit) return;
    make.mutate(
      { ...form.getFieldsValue(true), address: unit.address },
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
          <Button disabled={!unit || (plays && !score)} loading={make.isPending} onClick={() => put(false)}>
            Add only
          </Button>
          <Button
            type="primary"
            disabled={!unit || (plays && !score)}
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
      {unit && <LiveForm mix={mix} form={form} units={there} unit={unit} />}
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
