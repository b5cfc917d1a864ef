import { useCallback, useEffect, useRef, useState } from "react";
import { joinUrl } from "../../api/client";

/** The joins of an order, one after the other: which one is heard just now, and what went wrong. */
export function useHearing(order: number, joins: number) {
  const audio = useRef<HTMLAudioElement | null>(null);
  const [heard, setHeard] = useState<number | null>(null);
  const [problem, setProblem] = useState("");
  const stop = useCallback(() => {
    audio.current?.pause();
    audio.current = null;
    setHeard(null);
  }, []);
  const play = useCallback(
    (join: number, alone: boolean) => {
      audio.current?.pause();
      const next = new Audio(joinUrl(order, join));
      audio.current = next;
      setProblem("");
      setHeard(join);
      const ended = () => {
        if (audio.current !== next) return;
        if (!alone && join + 1 < joins) play(join + 1, false);
        else stop();
      };
      next.addEventListener("ended", ended);
      next.addEventListener("error", () => {
        if (audio.current !== next) return;
        setProblem(`Cannot play the join before track ${join + 1}.`);
        stop();
      });
      next.play().catch(() => undefined);
    },
    [order, joins, stop],
  );
  useEffect(() => stop, [stop]);
  return { heard, problem, play, stop };
}

/** Peaks of the sound around a join, from 0 to 1, half of them before it; null as long as it is not there. */
export function useJoinWave(order: number, join: number, stamp: unknown, points = 220) {
  const [wave, setWave] = useState<readonly number[] | null>(null);
  useEffect(() => {
    setWave(null);
    if (join < 1) return;
    const gone = new AbortController();
    const wait = setTimeout(() => {
      fetch(joinUrl(order, join, 3), { signal: gone.signal })
        .then((answer) => (answer.ok ? answer.arrayBuffer() : Promise.reject(new Error())))
        .then((data) => new OfflineAudioContext(2, 1, 44_100).decodeAudioData(data))
        .then((sound) => setWave(peaksOf(sound, points)))
        .catch(() => undefined);
    }, 150);
    return () => {
      clearTimeout(wait);
      gone.abort();
    };
  }, [order, join, stamp, points]);
  return wave;
}

function peaksOf(sound: AudioBuffer, points: number): readonly number[] {
  const sides = Array.from({ length: sound.numberOfChannels }, (_, at) => sound.getChannelData(at));
  const step = sound.length / points;
  return Array.from({ length: points }, (_, at) => {
    let peak = 0;
    for (const side of sides)
      for (let k = Math.floor(at * step); k < Math.floor((at + 1) * step); k += 1)
        peak = Math.max(peak, Math.abs(side[k] ?? 0));
    return Math.min(1, peak);
  });
}
