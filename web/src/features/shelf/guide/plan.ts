import type { BenchState, Defaults, Mix, Row } from "../../../api/client";
import { withRemedy } from "../../../shared/remedies";

/** Settings made so that the file meets its brief, with reasons. */
export interface Mended {
  readonly because: string;
  readonly label: string;
}

/** The bench of a mix with a ticket of one file: all of the mix to one brief. */
export function benchFor(mix: Mix, brief: string, defaults: Defaults): BenchState {
  const [first] = mix.bench.ranges;
  const line = {
    id: "g1",
    brief,
    range_id: first?.id ?? "",
    on: true,
    group: "",
    changes: defaults.changes,
    part: { stems: [], but: false },
  };
  return { ...mix.bench, ticket: [line] };
}

/**
 * The next step towards a file that fits: the first finding whose remedy is another setting of the
 * delivery. Decisions about the start of the range or the tag sheet are left to the user.
 */
export function mend(bench: BenchState, row: Row | undefined): [BenchState, Mended] | null {
  const found = row?.findings.find((one) => one.remedy?.changes);
  if (!row || !found?.remedy) return null;
  return [withRemedy(bench, row, found.remedy), { because: found.sentence, label: found.remedy.label }];
}
