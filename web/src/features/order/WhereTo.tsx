import { useQuery } from "@tanstack/react-query";
import { Select, Switch } from "antd";
import { useId } from "react";
import { api, type OrderShown, type RunningOrder } from "../../api/client";

/** The id of the brief field, for links to it. */
export const BRIEFS = "order-briefs";

type Line = RunningOrder["lines"][number];

/** The briefs that all entries are pressed to as files. */
export function WhereTo({ shown, change }: { shown: OrderShown; change: (order: RunningOrder) => void }) {
  const id = BRIEFS;
  const grid = useId();
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const defaults = useQuery({ queryKey: ["defaults"], queryFn: api.defaults });
  const { order } = shown;
  const known = new Set(briefs.data?.map((one) => one.id));
  const lines = (ids: readonly string[]): Line[] =>
    ids.flatMap((brief) => {
      const kept = order.lines.find((line) => line.brief === brief);
      if (kept) return [kept];
      return defaults.data ? [{ brief, changes: defaults.data.changes }] : [];
    });
  return (
    <section className="sheet where-to" aria-label="Deliveries">
      <h2>Deliveries</h2>
      <label htmlFor={id}>Briefs</label>
      <Select
        id={id}
        mode="multiple"
        value={order.lines.map((line) => line.brief).filter((brief) => known.has(brief))}
        placeholder="Choose briefs"
        options={(briefs.data ?? []).map((one) => ({ value: one.id, label: one.title }))}
        onChange={(ids: string[]) => change({ ...order, lines: lines(ids) })}
      />
      <small>One pressing makes every entry for every brief, plus playlists.</small>
      <label htmlFor={grid}>
        <Switch
          id={grid}
          size="small"
          checked={order.on_cd_frames}
          onChange={(on_cd_frames) => change({ ...order, on_cd_frames })}
        />{" "}
        Align gapless splits to CD frames
      </label>
    </section>
  );
}
