import { Button, Checkbox, Modal } from "antd";
import { useRef, useState } from "react";
import { Link } from "react-router";
import type { BenchState, Mix, Part, Row } from "../../../api/client";
import { counted } from "../../../shared/text/format";
import { useBriefs } from "../queries";
import { wordsOf } from "../range/RangeTabs";
import { type PartKind, PartsWanted, partsOf } from "../stems/PartsWanted";
import { useStems } from "../stems/queries";

interface AddDeliveryProps {
  mix: Mix;
  bench: BenchState;
  rows: readonly Row[];
  chosenId: string;
  open: boolean;
  /** Whether it was asked for the parts of the mix. */
  parted: boolean;
  close: () => void;
  add: (briefs: readonly string[], ranges: readonly string[], parts: readonly Part[]) => void;
}

const MIX: readonly PartKind[] = ["mix"];
const EACH: readonly PartKind[] = ["each"];

const toggled = (list: readonly string[], one: string) =>
  list.includes(one) ? list.filter((other) => other !== one) : [...list, one];

/** Where is it going? Briefs as cards, any number of them, for any number of ranges in one gesture. */
export function AddDelivery({ mix, bench, rows, chosenId, open, parted, close, add }: AddDeliveryProps) {
  const briefs = useBriefs();
  const cards = useRef<HTMLDivElement>(null);
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const [ranges, setRanges] = useState<readonly string[] | null>(null);
  const into = (ranges ?? [chosenId]).filter((id) => bench.ranges.some((range) => range.id === id));
  const names = (useStems(mix.id).data?.stems ?? []).map((one) => one.name);
  const [kinds, setKinds] = useState<readonly PartKind[] | null>(null);
  const asked = kinds ?? (parted && names.length ? EACH : MIX);
  const parts = partsOf(names.length ? asked : MIX, names);
  const count = chosen.length * into.length * parts.length;
  const take = (these: readonly string[]) => {
    add(these, into, parts);
    done();
  };
  const done = () => {
    setChosen([]);
    setRanges(null);
    setKinds(null);
    close();
  };
  return (
    <Modal
      title="Add deliveries"
      open={open}
      width="min(1180px, calc(100vw - 40px))"
      centered
      // The chosen card stays visible, however many briefs there are.
      styles={{ body: { maxHeight: "calc(100vh - 150px)", overflow: "auto", padding: 5 } }}
      onCancel={done}
      afterOpenChange={(opened) => opened && cards.current?.querySelector("button")?.focus()}
      footer={
        <>
          <Link to="/briefs" className="briefs-link">
            Manage briefs
          </Link>
          <Button onClick={done}>Close</Button>
          <Button type="primary" disabled={!count} onClick={() => take(chosen)}>
            {`Add ${counted(count, "delivery", "deliveries")}`}
          </Button>
        </>
      }
    >
      {bench.ranges.length > 1 && (
        <fieldset className="range-choice" aria-label="Ranges to deliver">
          {bench.ranges.map((range) => (
            <Checkbox
              key={range.id}
              checked={into.includes(range.id)}
              onChange={() => setRanges(toggled(into, range.id))}
            >
              {wordsOf(range, rows)}
            </Checkbox>
          ))}
        </fieldset>
      )}
      {names.length > 0 && <PartsWanted count={names.length} chosen={asked} choose={setKinds} />}
      {briefs.error && <p role="alert">{briefs.error.message}</p>}
      <div className="brief-cards" ref={cards}>
        {briefs.data?.map((brief) => (
          <button
            key={brief.id}
            type="button"
            className="brief-card"
            aria-pressed={chosen.includes(brief.id)}
            title="Double-click to add at once"
            onClick={() => setChosen(toggled(chosen, brief.id))}
            onDoubleClick={() => take([...chosen.filter((one) => one !== brief.id), brief.id])}
          >
            <b>{brief.title}</b>
            <span>{brief.sentence}</span>
            <small>{brief.why}</small>
          </button>
        ))}
      </div>
    </Modal>
  );
}
