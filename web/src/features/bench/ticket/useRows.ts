import { useEffect, useMemo, useRef } from "react";
import type { Row, Ticket } from "../../../api/client";

/** Refused only until it is known, or captured: it can be pressed, and is waited for. */
export const SOON: ReadonlySet<string> = new Set(["part.being-measured", "part.live"]);

/** Numbers of a row that is kept: none that the server gives, and shared with no other row. */
const apart = (row: Row, at: number): Row => ({
  ...row,
  verdict: "look",
  findings: [],
  stations: row.stations.map((one) => ({ ...one, node: -2 - 1000 * at - one.node })),
});

const NONE: readonly Row[] = [];

/** The rows of the ticket, and the deliveries under measurement: those keep their last rows at their places. */
export function useRows(ticket: Ticket | undefined) {
  const known = useRef(new Map<string, { at: number; rows: readonly Row[] }>());
  useEffect(() => {
    const rows = ticket?.rows ?? NONE;
    for (const line of new Set(rows.map((row) => row.line_id))) {
      const own = rows.filter((row) => row.line_id === line);
      known.current.set(line, { at: rows.indexOf(own[0] as Row), rows: own });
    }
  }, [ticket]);
  return useMemo(() => {
    const rows = [...(ticket?.rows ?? NONE)];
    const waits = new Map<string, string>();
    (ticket?.refused ?? []).forEach((one, at) => {
      const before = known.current.get(one.line_id);
      if (!before || !SOON.has(one.code)) return;
      waits.set(one.line_id, one.sentence);
      rows.splice(before.at, 0, ...before.rows.map((row) => apart(row, at)));
    });
    return { rows, waits };
  }, [ticket]);
}
