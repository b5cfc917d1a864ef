import type { KeptSheet, MixSheet, ReadSheet, TagField, TagValues } from "../../api/client";

/** The sheets of mixes by their number, as they are edited. */
export type Sheets = ReadonlyMap<number, TagValues>;

export const sheetsOf = (mixes: readonly KeptSheet[]): Sheets =>
  new Map(mixes.map((mix) => [mix.id, mix.tags]));

/** Edits over the saved sheets: texts by mix and field, an empty one deletes its field. */
export type Edits = ReadonlyMap<number, TagValues>;

export const NO_EDITS: Edits = new Map();

/** The saved sheets with the edits over them; changes saved elsewhere show through. */
export function withEdits(kept: Sheets, edits: Edits): Sheets {
  const next = new Map(kept);
  for (const [id, written] of edits) {
    const sheet = kept.get(id);
    if (sheet)
      next.set(
        id,
        written.reduce((values, [field, text]) => withText(values, field, text), sheet),
      );
  }
  return next;
}

/** What has to be written on top of the kept sheets to come to others. */
export function editsBetween(kept: Sheets, wanted: Sheets): Edits {
  const edits = new Map<number, TagValues>();
  for (const [id, sheet] of kept) {
    const other = wanted.get(id) ?? [];
    const fields = new Set([...sheet, ...other].map(([field]) => field));
    const written = [...fields]
      .filter((field) => textOf(sheet, field) !== textOf(other, field))
      .map((field): [string, string] => [field, textOf(other, field)]);
    if (written.length) edits.set(id, written);
  }
  return edits;
}

export const textOf = (values: TagValues | undefined, field: string): string =>
  values?.find(([name]) => name === field)?.[1] ?? "";

const withText = (values: TagValues, field: string, text: string): TagValues => {
  const rest = values.filter(([name]) => name !== field);
  return text.trim() ? [...rest, [field, text.trim()]] : rest;
};

/** One text put into a field of several mixes; `{n}` counts them from 1. */
export function filled(sheets: Sheets, ids: readonly number[], field: string, text: string): Sheets {
  const next = new Map(sheets);
  ids.forEach((id, at) => {
    next.set(id, withText(sheets.get(id) ?? [], field, text.replaceAll("{n}", String(at + 1))));
  });
  return next;
}

/** The text of the first chosen mix that has one, in all of them. */
export function filledDown(sheets: Sheets, ids: readonly number[], field: string): Sheets {
  const text = ids.map((id) => textOf(sheets.get(id), field)).find((one) => one) ?? "";
  return text ? filled(sheets, ids, field, text) : sheets;
}

/**
 * A block of texts, as tables are copied (lines, and tabs between cells), laid over the grid from one cell on; what
 * reaches past its end is left out.
 */
export function pasted(
  sheets: Sheets,
  ids: readonly number[],
  fields: readonly string[],
  at: { readonly id: number; readonly field: string },
  block: string,
): Sheets {
  const next = new Map(sheets);
  const lines = block.replace(/\r?\n$/, "").split(/\r?\n/);
  lines.forEach((line, down) => {
    const id = ids[ids.indexOf(at.id) + down];
    if (id === undefined) return;
    line.split("\t").forEach((text, along) => {
      const field = fields[fields.indexOf(at.field) + along];
      if (field !== undefined) next.set(id, withText(next.get(id) ?? [], field, text));
    });
  });
  return next;
}

/** Sheets out of a file, each on the mix that it names; gives what found no mix too. */
export function brought(
  sheets: Sheets,
  mixes: readonly KeptSheet[],
  read: readonly ReadSheet[],
): { sheets: Sheets; lost: readonly string[] } {
  const next = new Map(sheets);
  const lost: string[] = [];
  for (const one of read) {
    const named = mixes.find((mix) => mix.title.toLowerCase() === one.mix.toLowerCase());
    const only = read.length === 1 && mixes.length === 1 ? mixes[0] : undefined;
    const mix = named ?? only;
    if (mix) next.set(mix.id, one.values);
    else lost.push(one.mix || "a sheet without a mix");
  }
  return { sheets: next, lost };
}

/** The fields to save: only edited ones, because other displayed values may be older than the saved ones. */
export const changedSheets = (kept: Sheets, edits: Edits): MixSheet[] =>
  [...edits].filter(([id]) => kept.has(id)).map(([id, values]) => ({ mix_id: id, values: [...values] }));

/** The columns that are shown first; the others follow on request. */
const FIRST = ["title", "artist", "album", "track", "date", "genre", "isrc", "copyright"];

export const columnsOf = (fields: readonly TagField[], all: boolean): readonly TagField[] =>
  all ? fields : fields.filter((field) => FIRST.includes(field.name));
