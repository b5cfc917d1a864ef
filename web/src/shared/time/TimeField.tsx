import { useQueryClient } from "@tanstack/react-query";
import { Input } from "antd";
import { useEffect, useId, useRef, useState } from "react";
import { api, type Bar, type Mix, type TempoMap } from "../../api/client";
import { clock } from "../text/format";
import { useDraft } from "../useDraft";
import { printPlace, type Unit } from "./timeUnits";

/** How times are shown and what bars count by. */
export interface Timing {
  readonly unit: Unit;
  readonly bars: readonly Bar[];
  readonly tempo: TempoMap | null;
}

const BAR = /^\d+(\.\d+){0,2}$/;

interface TimeFieldProps {
  mix: Mix;
  timing: Timing;
  label: string;
  labelHidden?: boolean;
  frame: number;
  /** A sentence that it gives, at once or later, says why the time is refused. */
  onFrame: (frame: number) => unknown;
}

/** A time that can be typed in any form the product reads; nonsense is explained and changes nothing. */
export function TimeField({ mix, timing, label, labelHidden, frame, onFrame }: TimeFieldProps) {
  const id = useId();
  const queries = useQueryClient();
  const print = (at: number) => printPlace(at, timing.unit, mix.rate_hz, timing.bars);
  const shown = print(frame);
  const { typed: text, type: setText, handOver, drop } = useDraft(shown);
  const [error, setError] = useState<string | null>(null);
  // Reading the time takes a moment, in which something else may have been changed.
  const latest = useRef(onFrame);
  latest.current = onFrame;
  useEffect(() => setError(null), [shown]);
  const commit = async () => {
    handOver();
    if (text === shown) return setError(null);
    // In bars a bare number is a bar.
    const inBars = timing.unit === "bars";
    const typed = inBars && BAR.test(text.trim()) ? `b${text.trim()}` : text;
    try {
      const read = await queries.fetchQuery({
        queryKey: ["time", mix.id, typed, timing.tempo],
        queryFn: () => api.readTime(mix.id, typed, timing.tempo),
        retry: false,
      });
      if (read.frame > mix.frames) {
        return setError(`The mix is ${clock(mix.frames, mix.rate_hz)} long. Choose a time inside it.`);
      }
      const refused = await latest.current(read.frame);
      if (typeof refused === "string") return setError(refused);
      setError(null);
      setText(print(read.frame));
    } catch (problem) {
      const message = problem instanceof Error ? problem.message : String(problem);
      setError(inBars ? `${message} In bars: 25 for bar 25, 25.2 for its second beat.` : message);
    }
  };
  return (
    <span className="time-field">
      <label htmlFor={id} className={labelHidden ? "unseen" : ""}>
        {label}
      </label>
      <Input
        id={id}
        size="small"
        value={text}
        status={error ? "error" : ""}
        aria-invalid={error !== null}
        aria-describedby={error ? `${id}-error` : undefined}
        onChange={(event) => setText(event.target.value)}
        onPressEnter={commit}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key !== "Escape") return;
          drop();
          setError(null);
        }}
      />
      {error && (
        <span className="time-error" id={`${id}-error`} role="alert">
          {error}
        </span>
      )}
    </span>
  );
}
