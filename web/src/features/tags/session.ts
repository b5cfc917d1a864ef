import { createStore } from "zustand/vanilla";
import { type Edits, NO_EDITS } from "./model";

const MOST_STEPS = 100;

/** What was written into the sheets and not kept yet, step by step; it is there again when one comes back. */
export const tagSession = createStore<{ readonly history: readonly Edits[] }>(() => ({
  history: [NO_EDITS],
}));

export const editsOf = ({ history }: { readonly history: readonly Edits[] }): Edits =>
  history.at(-1) ?? NO_EDITS;

export const write = (edits: Edits) =>
  tagSession.setState(({ history }) => ({ history: [...history, edits].slice(-MOST_STEPS) }));

export const undo = () => tagSession.setState(({ history }) => ({ history: history.slice(0, -1) }));

/** After keeping: only what was written meanwhile is left. */
export const leave = (edits: Edits) =>
  tagSession.setState({ history: edits.size ? [NO_EDITS, edits] : [NO_EDITS] });
