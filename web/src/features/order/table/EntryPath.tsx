import { useQuery } from "@tanstack/react-query";
import { api, type OrderShown, type PathCell } from "../../../api/client";

/** The stations of a gapless entry: the shared path, the cut, and its own stations. */
export function EntryPath({ order, at }: { order: OrderShown; at: number }) {
  const path = useQuery({
    queryKey: ["orders", order.id, "path", at, order.order],
    queryFn: () => api.entryPath(order.id, at),
    placeholderData: (before) => before,
  });
  if (path.error) return <p className="field-error">{path.error.message}</p>;
  const cells = (path.data ?? []).filter((one) => !one.idle || one.kind === "piece" || one.kind === "source");
  const shared = cells.filter((one) => one.shared);
  const own = cells.filter((one) => !one.shared && one.kind !== "tags" && one.kind !== "name");
  if (!cells.length) return null;
  return (
    <div className="entry-path">
      <small>processed together</small>
      <Cells cells={shared} />
      <small>then separately</small>
      <Cells cells={own} />
    </div>
  );
}

function Cells({ cells }: { cells: readonly PathCell[] }) {
  return (
    <ol>
      {cells.map((one) => (
        <li key={one.kind} title={one.sentence} className={one.kind === "piece" ? "entry-cut" : ""}>
          {one.kind === "source" ? one.detail : one.label}
        </li>
      ))}
    </ol>
  );
}
