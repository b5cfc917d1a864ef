import { Button, Input, type InputRef, Radio, Select } from "antd";
import type { Ref } from "react";
import type { Order, Sort } from "./arrange";

export type View = "cards" | "list";

export const SORT_WORDS: Record<Sort, string> = {
  name: "Name",
  added: "Added",
  loudness: "Loudness",
  pressed: "Last pressed",
  changed: "Changed since last pressing",
};
const TURNED: Record<Sort, readonly [string, string]> = {
  name: ["A first", "Z first"],
  added: ["Newest first", "Oldest first"],
  loudness: ["Loudest first", "Quietest first"],
  pressed: ["Latest first", "Earliest first"],
  changed: ["Changed first", "Unchanged first"],
};

interface ShelfToolsProps {
  find: string;
  setFind: (find: string) => void;
  field: Ref<InputRef>;
  order: Order;
  setOrder: (order: Order) => void;
  view: View;
  setView: (view: View) => void;
  summary: string;
}

/** Find, sort, and how the shelf is shown. */
export function ShelfTools(props: ShelfToolsProps) {
  const { find, setFind, field, order, setOrder, view, setView, summary } = props;
  return (
    <search className="shelf-tools" aria-label="Shelf tools">
      <Input
        ref={field}
        allowClear
        aria-label="Search mixes"
        placeholder="Search title or path"
        value={find}
        onChange={(event) => setFind(event.target.value)}
      />
      <Select
        aria-label="Sort by"
        value={order.by}
        onChange={(by: Sort) => setOrder({ by, turned: false })}
        options={Object.entries(SORT_WORDS).map(([value, label]) => ({ value: value as Sort, label }))}
      />
      <Button type="text" onClick={() => setOrder({ ...order, turned: !order.turned })}>
        {TURNED[order.by][order.turned ? 1 : 0]}
      </Button>
      <Radio.Group
        aria-label="View"
        optionType="button"
        value={view}
        onChange={(event) => setView(event.target.value)}
        options={[
          { value: "cards", label: "Cards" },
          { value: "list", label: "List" },
        ]}
      />
      <span className="quiet" role="status">
        {summary}
      </span>
    </search>
  );
}
