import { Input } from "antd";
import { useEffect, useId, useState } from "react";
import { useDraft } from "./useDraft";

/** A line that is kept when one leaves it or presses Enter; what cannot be read stays, and is said. */
export function Typed({
  label,
  value,
  hint,
  read,
  put,
}: {
  label: string;
  value: string;
  hint?: string;
  /** Accepts a text, or returns its error. */
  read?: (text: string) => string;
  /** Takes any text in. */
  put?: (text: string) => void;
}) {
  const id = useId();
  const { typed, type, handOver, drop } = useDraft(value);
  const [problem, setProblem] = useState("");
  useEffect(() => setProblem(""), [value]);
  const keep = () => {
    handOver();
    if (typed === value) return;
    put?.(typed);
    setProblem(read?.(typed) ?? "");
  };
  return (
    <div className="typed">
      <label htmlFor={id}>{label}</label>
      <Input
        id={id}
        size="small"
        value={typed}
        placeholder={hint ?? ""}
        status={problem ? "error" : ""}
        onChange={(event) => type(event.target.value)}
        onBlur={keep}
        onPressEnter={keep}
        onKeyDown={(event) => {
          if (event.key === "Escape") {
            drop();
            setProblem("");
          }
        }}
      />
      {problem && (
        <p className="field-error" role="alert">
          {problem}
        </p>
      )}
    </div>
  );
}
