import { create } from "zustand";

const KEY = "ripe-press-mix";

interface LastMix {
  readonly id: number | null;
  readonly remember: (id: number) => void;
  readonly forget: (id: number) => void;
}

/** The mix that was last on the bench in this browser. */
export const useLastMix = create<LastMix>((set, get) => ({
  id: kept(),
  remember: (id) => {
    localStorage.setItem(KEY, String(id));
    set({ id });
  },
  forget: (id) => {
    if (get().id !== id) return;
    localStorage.removeItem(KEY);
    set({ id: null });
  },
}));

function kept(): number | null {
  const id = Number(localStorage.getItem(KEY));
  return Number.isInteger(id) && id > 0 ? id : null;
}
