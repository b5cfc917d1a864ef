import type { BenchState, NamedRange, Remedy, Row } from "../api/client";

/** The bench once a remedy has been applied: to a range, to the level of a delivery, or to anything else of it. */
export function withRemedy(bench: BenchState, row: Row, remedy: Remedy): BenchState {
  const { target_lufs } = remedy;
  if (remedy.tempo) return { ...bench, tempo: remedy.tempo };
  if (remedy.changes) {
    const given = Object.entries(remedy.changes).filter(([, value]) => value !== null);
    const ticket = bench.ticket.map((line) =>
      line.id === row.line_id
        ? { ...line, changes: { ...line.changes, ...Object.fromEntries(given) } }
        : line,
    );
    return { ...bench, ticket };
  }
  if (target_lufs !== null) {
    const ticket = bench.ticket.map((line) => {
      const level = { ...(line.changes.level ?? row.settled.level), target: target_lufs };
      return line.id === row.line_id ? { ...line, changes: { ...line.changes, level } } : line;
    });
    return { ...bench, ticket };
  }
  const ranges = bench.ranges.map((one) => (one.id === row.range_id ? remedied(one, remedy) : one));
  return { ...bench, ranges };
}

/** The range once a remedy has been applied to it. */
export function remedied(range: NamedRange, remedy: Remedy): NamedRange {
  const edges = { ...range.edges };
  if (remedy.end) edges.end = remedy.end;
  if (remedy.declick_ms !== null) edges.declick_ms = remedy.declick_ms;
  if (remedy.fade_out_s !== null) edges.fade_out_s = remedy.fade_out_s;
  if (remedy.silence_before_s !== null) {
    edges.silence_before_s = remedy.silence_before_s;
    edges.room_tone = true;
  }
  if (remedy.silence_after_s !== null) {
    edges.silence_after_s = remedy.silence_after_s;
    edges.room_tone = true;
  }
  return {
    ...range,
    start_frame: remedy.start_frame ?? range.start_frame,
    end_frame: remedy.end_frame ?? range.end_frame,
    edges,
  };
}
