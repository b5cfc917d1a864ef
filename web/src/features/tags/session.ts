import { createStore } from "zustand/vanilla";
import { type Edits, NO_EDITS } from "./model";

const MOST_STEPS = 100;

/** Unsaved edits of the sheets, step by step; they are restored on return. */
export const tagSession = createStore<{ readonly history: readonly Edits[] }>(() => ({
  history: [NO_EDITS],
}));

export const editsOf = ({ history }: { readonly history: readonly Edits[] }): Edits =>
  history.at(-1) ?? NO_EDITS;

export const write = (edits: Edits) =>
  tagSession.setState(({ history }) => ({ history: [...history, edits].slice(-MOST_STEPS) }));

export const undo = () => tagSession.setState(({ history }) => ({ history: history.slice(0, -1) }));

/** After saving: only edits made in between are left. */
export const leave = (edits: Edits) =>
  tagSession.setState({ history: edits.size ? [NO_EDITS, edits] : [NO_EDITS] });
