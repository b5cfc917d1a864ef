import { create } from "zustand";
import { player } from "./player";

const KEY = "ripe-press-volume";

interface Volume {
  /** At most 0. */
  readonly db: number;
  readonly set: (db: number) => void;
}

const kept = Number(localStorage.getItem(KEY) ?? 0);
const first = Number.isFinite(kept) && kept <= 0 ? kept : 0;
player.setVolume(first);

/** How loud the bench is heard; kept by this browser. It changes nothing of any file. */
export const useVolume = create<Volume>((set) => ({
  db: first,
  set: (db) => {
    player.setVolume(db);
    localStorage.setItem(KEY, String(db));
    set({ db });
  },
}));
