import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { useKeys } from "./keys";

/** Something that can be done where one is: by its key, from the palette, and as a line of the sheet of keys. */
export interface Command {
  readonly name: string;
  /** The name in `useKeys`; none for commands without a key. */
  readonly key?: string;
  readonly run: (event?: KeyboardEvent) => void;
  /** Not on the sheet of keys: there would be too many of its kind. */
  readonly thing?: string;
}

const registered = new Map<object, { current: readonly Command[] }>();
const listeners = new Set<() => void>();
let version = 0;

function changed() {
  version += 1;
  for (const listener of listeners) listener();
}

/** Offers commands as long as the part that has them is there. */
export function useCommands(commands: readonly Command[]): void {
  const current = useRef(commands);
  current.current = commands;
  const [mark] = useState(() => ({}));
  useEffect(() => {
    registered.set(mark, current);
    changed();
    return () => {
      registered.delete(mark);
      changed();
    };
  }, [mark]);
  useKeys(Object.fromEntries(commands.flatMap((one) => (one.key ? [[one.key, one.run]] : []))));
}

/** What can be done where one is, now: asked when it is shown, for it changes with everything. */
const commandsHere = (): readonly Command[] => [...registered.values()].flatMap((one) => one.current);

/** The same, for parts that are drawn while they are open. */
export function useCommandsHere(): readonly Command[] {
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => version,
  );
  return commandsHere();
}

const SHOWN: Record<string, string> = {
  " ": "Space",
  ArrowLeft: "←",
  ArrowRight: "→",
  PageUp: "Page Up",
  PageDown: "Page Down",
};

/** A key as it is written for people: `Ctrl Shift Z`, `Space`, `M`. */
export function keyWords(key: string): string {
  return key
    .split("+")
    .map((part) =>
      part === "mod"
        ? "Ctrl"
        : (SHOWN[part] ??
          (part.length === 1 ? part.toUpperCase() : (part[0]?.toUpperCase() ?? "") + part.slice(1))),
    )
    .join(" ");
}

const fold = (text: string) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();

/** How well a text matches the typed words: it must contain every one, best as a whole word or at a beginning; 0 for none. */
export function fits(text: string, typed: string): number {
  const folded = fold(text);
  let sum = 1;
  for (const word of fold(typed).split(/\s+/).filter(Boolean)) {
    const at = folded.indexOf(word);
    if (at < 0) return 0;
    const begins = at === 0 || /[^\p{L}\p{N}]/u.test(folded[at - 1] ?? "") || folded.includes(` ${word}`);
    const whole = folded.split(/[^\p{L}\p{N}/.]+/u).includes(word);
    sum += (at === 0 ? 3 : begins ? 2 : 1) + (whole ? 4 : 0);
  }
  return sum;
}
