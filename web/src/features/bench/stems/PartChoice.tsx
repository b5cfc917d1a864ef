import { Select } from "antd";
import type { Mix, Part, TicketLine } from "../../../api/client";
import { isMix, THE_MIX } from "../model";
import { useSession } from "../session";
import { useStems } from "./queries";

type Kind = "mix" | "some" | "but" | "all";
const KINDS: readonly { value: Kind; label: string }[] = [
  { value: "mix", label: "Mix" },
  { value: "some", label: "Stems" },
  { value: "but", label: "All stems except" },
  { value: "all", label: "Sum of all stems" },
];
const kindOf = (part: Part): Kind =>
  isMix(part) ? "mix" : !part.but ? "some" : part.stems.length ? "but" : "all";

/** What of the mix a delivery is of. Hidden for a mix without stems. */
export function PartChoice({ mix, line }: { mix: Mix; line: TicketLine }) {
  const session = useSession();
  const names = (useStems(mix.id).data?.stems ?? []).map((one) => one.name);
  const { part } = line;
  if (!names.length && isMix(part)) return null;
  const kind = kindOf(part);
  const set = (next: Part) => session.setLine({ ...line, part: next });
  const choose = (next: Kind) => {
    const some = part.stems.length ? part.stems : names.slice(0, 1);
    if (next === "mix") set(THE_MIX);
    else if (next === "all") set({ stems: [], but: true });
    else set({ stems: some, but: next === "but" });
  };
  return (
    <div className="part-choice">
      <Select size="small" aria-label="Audio to press" value={kind} onChange={choose} options={[...KINDS]} />
      {(kind === "some" || kind === "but") && (
        <Select
          size="small"
          mode="multiple"
          aria-label={kind === "but" ? "Excluded stems" : "Summed stems"}
          value={part.stems}
          onChange={(stems: string[]) => stems.length && set({ ...part, stems })}
          options={names.map((name) => ({ value: name, label: name }))}
        />
      )}
    </div>
  );
}
