import type {
  BenchState,
  Capability,
  Changes,
  Defaults,
  Edges,
  Marker,
  NamedRange,
  Part,
  Proposal,
  Row,
  TagValues,
  TempoMap,
  TicketLine,
} from "../../api/client";

export type Range = NamedRange;

/** The settings of a delivery: the server's last answer, overlaid with newer choices. */
export function settledOf({ settled }: Row, { changes }: TicketLine): Row["settled"] {
  const chosen = Object.entries(changes).filter(
    ([name, value]) => value !== null && value !== "keep" && name in settled,
  );
  return { ...settled, ...Object.fromEntries(chosen) };
}

export interface History {
  readonly past: readonly BenchState[];
  readonly present: BenchState;
  readonly future: readonly BenchState[];
}

export type Change =
  | { readonly type: "set"; readonly bench: BenchState }
  /** For results of requests: applied to the bench as it is by then. */
  | { readonly type: "edit"; readonly edit: (bench: BenchState) => BenchState }
  | { readonly type: "undo" }
  | { readonly type: "redo" };

const MOST_STEPS = 200;
export const sameBench = (a: BenchState, b: BenchState) => JSON.stringify(a) === JSON.stringify(b);

export function changed(history: History, change: Change): History {
  switch (change.type) {
    case "edit":
      return changed(history, { type: "set", bench: change.edit(history.present) });
    case "set":
      if (sameBench(change.bench, history.present)) return history;
      return {
        past: [...history.past, history.present].slice(-MOST_STEPS),
        present: change.bench,
        future: [],
      };
    case "undo": {
      const last = history.past.at(-1);
      if (!last) return history;
      return { past: history.past.slice(0, -1), present: last, future: [history.present, ...history.future] };
    }
    case "redo": {
      const [next, ...rest] = history.future;
      if (!next) return history;
      return { past: [...history.past, history.present], present: next, future: rest };
    }
  }
}

const free = (bench: BenchState, taken: (name: string) => boolean, stem: string): string => {
  let number = bench.ranges.length + 1;
  while (taken(`${stem}${number}`)) number++;
  return `${stem}${number}`;
};

/** The look that fewest ranges have. */
const freeLook = (bench: BenchState, looks: number): number => {
  const uses = Array.from(
    { length: looks },
    (_, look) => bench.ranges.filter((one) => one.look === look).length,
  );
  return uses.indexOf(Math.min(...uses));
};

/** The bench with one range put in the place of the one with its id. */
export const withRange = (bench: BenchState, range: Range): BenchState => ({
  ...bench,
  ranges: bench.ranges.map((one) => (one.id === range.id ? range : one)),
});

/** The bench with one more range, and the id of that. */
export function withNewRange(
  bench: BenchState,
  start: number,
  end: number,
  defaults: Defaults,
): { bench: BenchState; id: string } {
  const range: Range = {
    id: free(bench, (id) => bench.ranges.some((one) => one.id === id), "r"),
    start_frame: Math.round(start),
    end_frame: Math.round(end),
    name: free(bench, (name) => bench.ranges.some((one) => one.name === name), "Part "),
    look: freeLook(bench, defaults.looks),
    edges: defaults.edges,
  };
  // A new range goes where the ranges before it go.
  const briefs = [...new Set(bench.ticket.map((line) => line.brief))];
  return {
    bench: withLines({ ...bench, ranges: [...bench.ranges, range] }, briefs, [range.id], defaults),
    id: range.id,
  };
}

/** A copy of the range of a delivery, for this delivery alone. */
export function withOwnRange(bench: BenchState, line: TicketLine, looks: number): BenchState {
  const range = bench.ranges.find((one) => one.id === line.range_id);
  if (!range) return bench;
  const id = free(bench, (name) => bench.ranges.some((one) => one.id === name), "r");
  const copy = { ...range, id, look: freeLook(bench, looks) };
  return withLine({ ...bench, ranges: [...bench.ranges, copy] }, { ...line, range_id: id });
}

/** Pairs of field and text with one of them set; without text the field goes. */
export const withTag = (values: TagValues, field: string, text: string): TagValues => {
  const rest = values.filter(([name]) => name !== field);
  return text.trim() ? [...rest, [field, text]] : rest;
};

export const tagOf = (values: TagValues, field: string): string =>
  values.find(([name]) => name === field)?.[1] ?? "";

/**
 * Another format: what the old one alone could be set to falls back to the brief, so that a choice is never refused
 * for something that is no longer seen.
 */
export function withFormat(changes: Changes, can: Capability): Changes {
  const { encoding, rate_hz } = changes;
  const rateFits = !rate_hz || rate_hz === "keep" || can.rates_hz.includes(rate_hz);
  const depthFits = encoding === null || encoding === "keep" || can.depths.some(([one]) => one === encoding);
  return {
    ...changes,
    container: can.container,
    encoding: depthFits ? encoding : null,
    rate_hz: rateFits ? rate_hz : null,
    dither: can.lossy ? null : changes.dither,
    mode: null,
    kbps: null,
    coding_quality: null,
  };
}

const freeLine = (bench: BenchState): string => {
  let number = bench.ticket.length + 1;
  while (bench.ticket.some((line) => line.id === `d${number}`)) number++;
  return `d${number}`;
};

export const THE_MIX: Part = { stems: [], but: false };
export const isMix = (part: Part) => !part.stems.length && !part.but;

/** The bench with a delivery of every part of every range to every brief, after those that are there. */
export function withLines(
  bench: BenchState,
  briefs: readonly string[],
  ranges: readonly string[],
  defaults: Defaults,
  parts: readonly Part[] = [THE_MIX],
): BenchState {
  let next = bench;
  for (const range_id of ranges) {
    for (const brief of briefs) {
      for (const part of parts) {
        const line = {
          id: freeLine(next),
          brief,
          range_id,
          on: true,
          group: "",
          changes: defaults.changes,
          part,
        };
        next = { ...next, ticket: [...next.ticket, line] };
      }
    }
  }
  return next;
}

/** The bench with some of its deliveries changed, each from what it is by now. */
export const withEdited = (
  bench: BenchState,
  ids: readonly string[],
  edit: (line: TicketLine) => TicketLine,
): BenchState => ({
  ...bench,
  ticket: bench.ticket.map((one) => (ids.includes(one.id) ? edit(one) : one)),
});

export const withLine = (bench: BenchState, line: TicketLine): BenchState =>
  withEdited(bench, [line.id], () => line);

/** The node of a station in the path of a file. */
export const nodeIn = (row: Row | undefined, kind: string) =>
  row?.stations.find((one) => one.kind === kind)?.node;

/** The deliveries that share a station of a file, its own first; only its own where it has no such station. */
export function sharing(rows: readonly Row[], row: Row, kind: string): readonly string[] {
  const node = nodeIn(row, kind);
  const others = rows.filter((one) => node !== undefined && nodeIn(one, kind) === node);
  return [...new Set([row.line_id, ...others.map((one) => one.line_id)])];
}

export const withoutLine = (bench: BenchState, id: string): BenchState => ({
  ...bench,
  ticket: bench.ticket.filter((one) => one.id !== id),
  // Another delivery may get the same id later.
  signed: bench.signed.map((one) => ({ ...one, lines: one.lines.filter((line) => line !== id) })),
});

/** A second delivery like this one, right after it. */
export function withCopy(bench: BenchState, line: TicketLine): BenchState {
  const at = bench.ticket.indexOf(line) + 1;
  const copy = { ...line, id: freeLine(bench) };
  return { ...bench, ticket: [...bench.ticket.slice(0, at), copy, ...bench.ticket.slice(at)] };
}

/** The delivery moved one place up or down. */
export function withMoved(bench: BenchState, id: string, step: -1 | 1): BenchState {
  const ticket = [...bench.ticket];
  const at = ticket.findIndex((one) => one.id === id);
  const [line] = ticket.splice(at, 1);
  if (!line) return bench;
  ticket.splice(Math.max(0, Math.min(ticket.length, at + step)), 0, line);
  return { ...bench, ticket };
}

/** The bench with proposed ranges after its own, each under its own name or that of the proposal. */
export function withBeside(bench: BenchState, proposal: Proposal, defaults: Defaults): BenchState {
  return proposal.ranges.reduce((before, one) => {
    const made = withNewRange(before, one.start_frame, one.end_frame, defaults).bench;
    const added = made.ranges.at(-1);
    return added ? withRange(made, { ...added, name: one.name || proposal.label, edges: one.edges }) : made;
  }, bench);
}

export const withoutRange = (bench: BenchState, id: string): BenchState =>
  bench.ranges.length < 2
    ? bench
    : {
        ...bench,
        ranges: bench.ranges.filter((one) => one.id !== id),
        ticket: bench.ticket.filter((line) => line.range_id !== id),
      };

/** The bench with other ranges in the place of all; each goes where the old ones went. */
export function withRanges(bench: BenchState, ranges: readonly Range[], defaults: Defaults): BenchState {
  const briefs = [...new Set(bench.ticket.map((line) => line.brief))];
  const ids = ranges.map((range) => range.id);
  return withLines({ ...bench, ranges: [...ranges], ticket: [] }, briefs, ids, defaults);
}

export const withMarkers = (bench: BenchState, markers: readonly Marker[]): BenchState => ({
  ...bench,
  markers: [...markers].sort((a, b) => a.frame - b.frame),
});

export function withNewMarker(bench: BenchState, frame: number): BenchState {
  let number = bench.markers.length + 1;
  while (bench.markers.some((one) => one.name === `Marker ${number}`)) number++;
  return withMarkers(bench, [...bench.markers, { frame: Math.round(frame), name: `Marker ${number}` }]);
}

export const withTempo = (bench: BenchState, tempo: TempoMap | null): BenchState => ({ ...bench, tempo });

/** Gain of a fade in at a share of its length, for drawing; the same curves as the press. */
export function fadeGain(curve: Edges["fade_in_curve"], share: number): number {
  const at = Math.min(1, Math.max(0, share));
  switch (curve) {
    case "linear":
      return at;
    case "equal-power":
      return Math.sin((at * Math.PI) / 2);
    case "s":
      return 0.5 - 0.5 * Math.cos(at * Math.PI);
    case "logarithmic":
      return (0.001 ** (1 - at) - 0.001) / 0.999;
  }
}

/** A range with one edge moved, kept inside the mix; null where it would meet the other edge or pass it. */
export function withEdge(range: Range, edge: "start" | "end", frame: number, frames: number): Range | null {
  const at = Math.max(0, Math.min(frames, Math.round(frame)));
  const next = { ...range, [edge === "start" ? "start_frame" : "end_frame"]: at };
  return next.start_frame < next.end_frame ? next : null;
}

export const EDGE_REFUSED = {
  start: "Range start must be before range end.",
  end: "Range end must be after range start.",
} as const;

/** The stretch between two places, in whichever order they were given. */
export function between(
  a: number,
  b: number,
  frames: number,
): { start_frame: number; end_frame: number } | null {
  const start_frame = Math.max(0, Math.round(Math.min(a, b)));
  const end_frame = Math.min(frames, Math.round(Math.max(a, b)));
  return end_frame > start_frame ? { start_frame, end_frame } : null;
}

/** How far a nudge goes, in frames: a hundredth of a second, a tenth with Shift, one sample with Alt. */
export function nudge(rateHz: number, big: boolean, fine: boolean): number {
  if (fine) return 1;
  return Math.round(rateHz * (big ? 0.1 : 0.01));
}
