import words from "../../api/generated/words.json";

/** Everyday words of the trade for what a command or a setting is called here: found by either. */
export const SYNONYMS: Readonly<Record<string, string>> = words.everyday;

/** The words by which something is found: its name, and those that people use for it. */
export const wordsFor = (name: string): string => `${name} ${SYNONYMS[name] ?? ""}`;
