import type { ShelfMix } from "../../api/client";

export const SORTS = ["name", "added", "loudness", "pressed", "changed"] as const;
export type Sort = (typeof SORTS)[number];

/** By what the shelf is sorted, and whether from the other end. */
export interface Order {
  readonly by: Sort;
  readonly turned: boolean;
}

/** The order that each is wanted in first: names from A on, of all else the newest or the loudest. */
const COMPARE: Record<Sort, (one: ShelfMix, other: ShelfMix) => number> = {
  name: (one, other) => NAMES.compare(one.title, other.title),
  added: (one, other) => -compare(one.added_at, other.added_at) || other.id - one.id,
  loudness: (one, other) => (other.integrated_lufs ?? -200) - (one.integrated_lufs ?? -200),
  pressed: (one, other) => -compare(one.pressed_at ?? "", other.pressed_at ?? ""),
  changed: (one, other) => Number(other.changed_since) - Number(one.changed_since),
};
const NAMES = new Intl.Collator("en", { numeric: true, sensitivity: "base" });

const compare = (one: string, other: string) => (one < other ? -1 : one > other ? 1 : 0);

/** The mixes whose title or path has every typed word, sorted; equal ones newest first. */
export function arranged(mixes: readonly ShelfMix[], find: string, order: Order): ShelfMix[] {
  const words = folded(find).split(/\s+/).filter(Boolean);
  const found = words.length
    ? mixes.filter((mix) => {
        const text = folded(`${mix.title} ${mix.came_from}`);
        return words.every((word) => text.includes(word));
      })
    : [...mixes];
  const way = order.turned ? -1 : 1;
  return found.sort((one, other) => way * COMPARE[order.by](one, other) || COMPARE.added(one, other));
}

const folded = (text: string) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();

/** The selection after a click on a box: with Shift held, all from the last clicked one to this one. */
export function chosenWith(
  chosen: ReadonlySet<number>,
  shown: readonly number[],
  id: number,
  on: boolean,
  since: number | null,
): ReadonlySet<number> {
  const next = new Set(chosen);
  const [from, to] = [since === null ? -1 : shown.indexOf(since), shown.indexOf(id)];
  const ids = from < 0 || to < 0 ? [id] : shown.slice(Math.min(from, to), Math.max(from, to) + 1);
  for (const one of ids) {
    if (on) next.add(one);
    else next.delete(one);
  }
  return next;
}
