const KEY = "ripe-press-order";

/** The order that was last shown in this browser. */
export const last = {
  get(): number | null {
    const kept = Number(localStorage.getItem(KEY));
    return Number.isInteger(kept) && kept > 0 ? kept : null;
  },
  set(id: number | null) {
    if (id === null) localStorage.removeItem(KEY);
    else localStorage.setItem(KEY, String(id));
  },
};
