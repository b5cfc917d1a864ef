import { useQuery } from "@tanstack/react-query";
import { api, type KeptSheet } from "../../api/client";
import { cellId } from "./GridCell";
import type { Sheets } from "./model";

export interface Problem {
  readonly mix: number;
  readonly field: string;
  readonly sentence: string;
}

/** What on the sheets is not written as it must be, by the cell; the rules are the server's. */
export function useProblems(mixes: readonly KeptSheet[], sheets: Sheets): ReadonlyMap<string, Problem> {
  const found = useQuery({
    queryKey: ["tag-problems", [...sheets]],
    queryFn: async () => {
      const lists = await Promise.all(mixes.map((mix) => api.checkSheet(sheets.get(mix.id) ?? [])));
      const problems = mixes.flatMap((mix, at) =>
        (lists[at] ?? []).map(({ field, sentence }) => ({
          mix: mix.id,
          field,
          sentence: `${mix.title}: ${sentence}`,
        })),
      );
      return new Map(problems.map((one) => [cellId(one.mix, one.field), one] as const));
    },
    placeholderData: (before) => before,
  });
  return found.data ?? new Map();
}
