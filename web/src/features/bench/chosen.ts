import { useState } from "react";
import type { BenchState, Row } from "../../api/client";
import type { Range } from "./model";

/** A station of a delivery: rows move about as the tree changes, so it is known by its delivery, not by its row. */
export interface ChosenStation {
  readonly line: string;
  /** Which of the delivery's files: split channels make two. */
  readonly file: number;
  readonly kind: string;
}

/** The row of the tree that a chosen station is in; the first one when its delivery is gone. */
export function rowOf(rows: readonly Row[], chosen: ChosenStation): number {
  const own = rows.flatMap((row, at) => (row.line_id === chosen.line ? [at] : []));
  return own[Math.min(chosen.file, own.length - 1)] ?? 0;
}

/** The station at a row and of a kind, known by its delivery. */
export function stationAt(rows: readonly Row[], at: number, kind: string): ChosenStation {
  const line = rows[at]?.line_id ?? "";
  return { line, file: rows.slice(0, at).filter((row) => row.line_id === line).length, kind };
}

/** The chosen range and station: choosing the one takes the other along. */
export function useChosen(bench: BenchState, rows: readonly Row[]) {
  const [rangeId, setRangeId] = useState(bench.ranges[0]?.id ?? "");
  const [station, setStation] = useState<ChosenStation>({
    line: bench.ticket[0]?.id ?? "",
    file: 0,
    kind: "depth",
  });
  const range = bench.ranges.find((one) => one.id === rangeId) ?? (bench.ranges[0] as Range);
  const row = rowOf(rows, station);
  return {
    range,
    row,
    kind: station.kind,
    /** A range, with the first delivery of it on this bench; `kind` when another station is to be shown. */
    chooseRange: (id: string, on: BenchState = bench, kind = station.kind) => {
      setRangeId(id);
      const line = on.ticket.find((one) => one.range_id === id)?.id;
      if (line) setStation({ line, file: 0, kind });
    },
    chooseStation: (at: number, kind: string) => {
      setStation(stationAt(rows, at, kind));
      const id = rows[at]?.range_id;
      if (id) setRangeId(id);
    },
    /** A delivery that has just been put on the ticket. */
    chooseLine: (line: string | undefined) => line && setStation({ line, file: 0, kind: "name" }),
  };
}
