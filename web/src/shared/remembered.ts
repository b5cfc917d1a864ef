import { useState } from "react";

/** A choice of how things are shown, kept by this browser from one visit to the next. */
export function useRemembered<T>(name: string, first: T): [T, (value: T) => void] {
  const key = `ripe-press-${name}`;
  const [value, setValue] = useState<T>(() => {
    try {
      const kept = localStorage.getItem(key);
      return kept === null ? first : (JSON.parse(kept) as T);
    } catch {
      return first;
    }
  });
  return [
    value,
    (next) => {
      setValue(next);
      localStorage.setItem(key, JSON.stringify(next));
    },
  ];
}
