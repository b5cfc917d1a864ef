import { Checkbox } from "antd";
import type { Part } from "../../../api/client";
import { THE_MIX } from "../model";

export type PartKind = "mix" | "each" | "minus" | "sum";
const LABELS: Record<PartKind, (count: number) => string> = {
  mix: () => "Mix",
  each: (count) => `${count} single stems`,
  minus: (count) => `${count} mix-minus files`,
  sum: () => "Sum of all stems",
};

/** The parts that some kinds mean, for the stems that there are. */
export function partsOf(kinds: readonly PartKind[], names: readonly string[]): Part[] {
  const of: Record<PartKind, () => Part[]> = {
    mix: () => [THE_MIX],
    each: () => names.map((name) => ({ stems: [name], but: false })),
    minus: () => names.map((name) => ({ stems: [name], but: true })),
    sum: () => [{ stems: [], but: true }],
  };
  return kinds.flatMap((kind) => of[kind]());
}

/** Which parts of the mix are delivered: any of them in one gesture. */
export function PartsWanted({
  count,
  chosen,
  choose,
}: {
  count: number;
  chosen: readonly PartKind[];
  choose: (kinds: readonly PartKind[]) => void;
}) {
  const kinds = (Object.keys(LABELS) as PartKind[]).filter((kind) => kind !== "minus" || count > 1);
  return (
    <fieldset className="range-choice" aria-label="Parts to deliver">
      {kinds.map((kind) => (
        <Checkbox
          key={kind}
          checked={chosen.includes(kind)}
          onChange={({ target }) =>
            choose(kinds.filter((one) => (one === kind ? target.checked : chosen.includes(one))))
          }
        >
          {LABELS[kind](count)}
        </Checkbox>
      ))}
    </fieldset>
  );
}
