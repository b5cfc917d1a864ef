import { create } from "zustand";

const KEY = "ripe-press-words";

interface Silence {
  readonly silent: boolean;
  readonly turn: () => void;
}

/** Whether words of the trade explain themselves: kept by this browser, the same on every station. */
export const useSilence = create<Silence>((set, get) => ({
  silent: localStorage.getItem(KEY) === "silent",
  turn: () => {
    const silent = !get().silent;
    localStorage.setItem(KEY, silent ? "silent" : "told");
    set({ silent });
  },
}));
