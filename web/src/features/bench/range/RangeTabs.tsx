import { Button, Input, Popover } from "antd";
import { useEffect, useRef, useState } from "react";
import type { BenchState, Mix, Proposal, Row } from "../../../api/client";
import { clock } from "../../../shared/text/format";
import type { Range } from "../model";
import { useProposals } from "../queries";
import { useRange, useSession, useSetOut } from "../session";
import { Swatch } from "../wave/looks";
import { RangeMenu } from "./RangeMenu";

interface RangeTabsProps {
  mix: Mix;
  rows: readonly Row[];
  add: () => void;
}

/** What a range is, in words: its own name, or what the ticket's range station calls it. */
export const wordsOf = (range: Range, rows: readonly Row[]): string =>
  range.name ||
  rows.find((row) => row.range_id === range.id)?.stations.find((one) => one.kind === "range")?.label ||
  "Range";

export function RangeTabs({ mix, rows, add }: RangeTabsProps) {
  const session = useSession();
  const bench = useSetOut();
  const { id: chosenId } = useRange();
  const tabs = useRef<HTMLDivElement>(null);
  useEffect(() => {
    tabs.current
      ?.querySelector(`[data-range="${chosenId}"]`)
      ?.scrollIntoView({ block: "nearest", inline: "nearest" });
  }, [chosenId]);
  const [naming, setNaming] = useState<string | null>(null);
  return (
    <fieldset className="range-tabs" aria-label="Ranges">
      <div className="range-scroll" ref={tabs}>
        {bench.ranges.map((range) => {
          const words = wordsOf(range, rows);
          const chosen = range.id === chosenId;
          if (naming === range.id) {
            return (
              <Input
                key={range.id}
                size="small"
                autoFocus
                className="range-name"
                aria-label="Name of the range"
                maxLength={120}
                defaultValue={range.name}
                placeholder="Name"
                onBlur={(event) => {
                  setNaming(null);
                  session.setRange({ ...range, name: event.target.value.trim() });
                }}
                onKeyDown={(event) => {
                  if (event.key === "Enter") event.currentTarget.blur();
                  if (event.key === "Escape") setNaming(null);
                }}
              />
            );
          }
          return (
            <span
              key={range.id}
              data-range={range.id}
              className={`range-tab${chosen ? " range-tab-chosen" : ""}`}
            >
              <button
                type="button"
                aria-pressed={chosen}
                title="Double-click to rename"
                onClick={() => session.chooseRange(range.id)}
                onDoubleClick={() => setNaming(range.id)}
                onKeyDown={(event) => {
                  if (event.key === "F2") setNaming(range.id);
                  if (event.key === "Delete" && bench.ranges.length > 1) session.removeRange(range.id);
                }}
              >
                <Swatch look={range.look} />
                <b>{words}</b>
                <small>{clock(range.end_frame - range.start_frame, mix.rate_hz)}</small>
              </button>
              {chosen && <RangeMenu mix={mix} rename={() => setNaming(range.id)} />}
            </span>
          );
        })}
      </div>
      <MoreRanges mix={mix} bench={bench} add={add} />
    </fieldset>
  );
}

/** One more range, or those that markers, silence or bars suggest. */
function MoreRanges({ mix, bench, add }: { mix: Mix; bench: BenchState; add: () => void }) {
  const { take } = useSession();
  const [open, setOpen] = useState(false);
  const found = useProposals(mix.id, bench, open);
  const act = (proposal: Proposal, beside: boolean) => {
    setOpen(false);
    take(proposal, beside);
  };
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomLeft"
      content={
        <ul className="proposals" aria-label="Suggested ranges">
          <li>
            <Button
              size="small"
              aria-keyshortcuts="n"
              onClick={() => {
                setOpen(false);
                add();
              }}
            >
              Add range from cursor
            </Button>
          </li>
          {found.isSuccess && !found.data.length && <li>No suggestions: no silence found.</li>}
          {found.error && <li role="alert">{found.error.message}</li>}
          {found.data?.map((proposal) => (
            <li key={proposal.label}>
              <b>{proposal.label}</b>
              <p>{proposal.reason}</p>
              <Button size="small" type="primary" onClick={() => act(proposal, false)}>
                Replace ranges
              </Button>{" "}
              <Button size="small" onClick={() => act(proposal, true)}>
                Add ranges
              </Button>
            </li>
          ))}
        </ul>
      }
    >
      <Button size="small" aria-label="Add or suggest ranges" title="Add or suggest ranges">
        +
      </Button>
    </Popover>
  );
}
