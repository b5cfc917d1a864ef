import type { FileLine, HeldReport, LevelRequest, Parcel, Pressing, Verdict } from "../../api/client";
import words from "../../api/generated/words.json";

/** The words of verdicts, states and units, from the server's tables: the command line has the same. */
export const VERDICTS: Record<Verdict, string> = words.verdict;
export const PRESSINGS: Record<Pressing["state"], string> = words.pressing;
export const FILES: Record<FileLine["state"], string> = words.file;
export const TRANSFERS: Record<Parcel["state"], string> = words.transfer;
export const PREDICTIONS: Record<NonNullable<HeldReport["hearing"]>["prediction"], string> = words.prediction;
export const LEVELS: Record<LevelRequest["kind"], string> = words.level;
export const LEVEL_UNITS: Record<LevelRequest["kind"], string> = words.level_unit;
export const MODES = words.mode;

/** A word as a label begins. */
export const capital = (word: string) => `${word.charAt(0).toUpperCase()}${word.slice(1)}`;
