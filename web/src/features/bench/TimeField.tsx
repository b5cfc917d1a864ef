import { useQueryClient } from "@tanstack/react-query";
import { Input } from "antd";
import { useEffect, useId, useState } from "react";
import { api, type Mix } from "../../api/client";
import { clock } from "../../shared/format";

interface TimeFieldProps {
  mix: Mix;
  label: string;
  frame: number;
  onFrame: (frame: number) => void;
}

/** A time that can be typed in any form the product reads; nonsense is explained and changes nothing. */
export function TimeField({ mix, label, frame, onFrame }: TimeFieldProps) {
  const id = useId();
  const queries = useQueryClient();
  const shown = clock(frame, mix.rate_hz);
  const [text, setText] = useState(shown);
  const [error, setError] = useState<string | null>(null);
  useEffect(() => {
    setText(shown);
    setError(null);
  }, [shown]);
  const commit = async () => {
    if (text === shown) return setError(null);
    try {
      const read = await queries.fetchQuery({
        queryKey: ["time", mix.id, text],
        queryFn: () => api.readTime(mix.id, text),
        retry: false,
      });
      if (read.frame > mix.frames) {
        return setError(`The mix is ${clock(mix.frames, mix.rate_hz)} long. Choose a time inside it.`);
      }
      setError(null);
      onFrame(read.frame);
      setText(clock(read.frame, mix.rate_hz));
    } catch (problem) {
      setError(problem instanceof Error ? problem.message : String(problem));
    }
  };
  return (
    <span className="time-field">
      <label htmlFor={id}>{label}</label>
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
          setText(shown);
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
