import { memo, type Ref } from "react";
import { Link } from "react-router";
import { clock, level } from "../../shared/text/format";
import { when } from "../../shared/text/pressings";
import { Thumbnail } from "../../shared/waveform/Thumbnail";
import type { Order, Sort } from "./arrange";
import { Choice, formOf, type MixProps, VersionsButton } from "./cards";
import { MixNotes } from "./MixNotes";
import { SORT_WORDS } from "./ShelfTools";

const COLUMNS: readonly { readonly name: string; readonly sort?: Sort }[] = [
  { name: "Waveform" },
  { name: SORT_WORDS.name, sort: "name" },
  { name: "Length" },
  { name: "Format" },
  { name: SORT_WORDS.loudness, sort: "loudness" },
  { name: "Peak" },
  { name: SORT_WORDS.added, sort: "added" },
  { name: SORT_WORDS.pressed, sort: "pressed" },
  { name: SORT_WORDS.changed, sort: "changed" },
];

/** The head of the dense list: a click on a column sorts by it, another one turns it round. */
export function ListHead({ order, setOrder }: { order: Order; setOrder: (order: Order) => void }) {
  return (
    <tr className="mix-row list-head">
      <th scope="col">
        <span className="unseen">Selected</span>
      </th>
      {COLUMNS.map(({ name, sort }) => (
        <th
          key={name}
          scope="col"
          className={`col-${name.split(" ")[0]?.toLowerCase()}`}
          aria-sort={
            sort !== order.by
              ? undefined
              : (order.by === "name") !== order.turned
                ? "ascending"
                : "descending"
          }
        >
          {sort ? (
            <button
              type="button"
              className={sort === order.by ? "sorted" : ""}
              onClick={() => setOrder({ by: sort, turned: sort === order.by && !order.turned })}
            >
              {name}
              {sort === order.by && <span aria-hidden="true">{order.turned ? " ↑" : " ↓"}</span>}
            </button>
          ) : (
            name
          )}
        </th>
      ))}
    </tr>
  );
}

/** One line a mix. */
export const MixRow = memo(function MixRow(props: MixProps & { row: number; ref: Ref<HTMLTableRowElement> }) {
  const { mix, chosen, choose, show, change, likely, current, row, ref } = props;
  const notes = change || likely;
  return (
    <tr
      ref={ref}
      aria-rowindex={row + 2}
      data-index={row}
      data-mix={mix.id}
      className={`mix-row${chosen ? " row-chosen" : ""}${notes ? " row-notes" : ""}`}
    >
      <Cell name="choice">
        <Choice mix={mix} chosen={chosen} choose={choose} />
      </Cell>
      <Cell name="waveform">
        <Thumbnail mix={mix} />
      </Cell>
      <Cell name="name">
        <Link
          to={`/bench/${mix.id}`}
          tabIndex={current ? 0 : -1}
          aria-label={`Open ${mix.title} on the Bench`}
          title={mix.came_from || "uploaded copy"}
        >
          {mix.title}
        </Link>
        <VersionsButton mix={mix} show={show} />
      </Cell>
      <Cell name="length">{clock(mix.frames, mix.rate_hz, 0)}</Cell>
      <Cell name="form">{formOf(mix)}</Cell>
      <Cell name="loudness">{level(mix.integrated_lufs, "LUFS")}</Cell>
      <Cell name="peak">
        <span className={mix.samples_over_full_scale > 0 ? "over" : ""}>{level(mix.sample_peak_dbfs)}</span>
      </Cell>
      <Cell name="added">{when(mix.added_at)}</Cell>
      <Cell name="last">{mix.pressed_at ? when(mix.pressed_at) : "never"}</Cell>
      <Cell name="changed">{mix.changed_since ? "changed since last pressing" : ""}</Cell>
      {notes && (
        <td className="col-notes">
          <MixNotes mix={mix} change={change} likely={likely} />
        </td>
      )}
    </tr>
  );
});

function Cell({ name, children }: { name: string; children: React.ReactNode }) {
  return <td className={`col-${name}`}>{children}</td>;
}
