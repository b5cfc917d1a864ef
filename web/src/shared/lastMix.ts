const KEY = "ripe-press-mix";

/** The mix that was last on the bench in this browser. */
export function lastMix(): number | null {
  const kept = Number(localStorage.getItem(KEY));
  return Number.isInteger(kept) && kept > 0 ? kept : null;
}

export function rememberMix(id: number): void {
  localStorage.setItem(KEY, String(id));
}

export function forgetMix(id: number): void {
  if (lastMix() === id) localStorage.removeItem(KEY);
}
