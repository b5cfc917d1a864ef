import { useEffect, useRef } from "react";
import { bpmOfTaps, withTap } from "./taps";

const SETTLED_MS = 1_200;

/** Taps until they pause; then the tempo that they make is handed over. */
export function useTaps(settle: (bpm: number) => void): () => void {
  const taps = useRef<number[]>([]);
  const timer = useRef(0);
  const latest = useRef(settle);
  latest.current = settle;
  useEffect(() => () => clearTimeout(timer.current), []);
  return () => {
    taps.current = withTap(taps.current, performance.now());
    clearTimeout(timer.current);
    timer.current = window.setTimeout(() => {
      const bpm = bpmOfTaps(taps.current);
      taps.current = [];
      if (bpm) latest.current(bpm);
    }, SETTLED_MS);
  };
}
