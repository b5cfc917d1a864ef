import { useCallback, useEffect, useRef, useState } from "react";

/** A text that is being typed over a value. */
export interface Draft {
  readonly typed: string;
  readonly type: (text: string) => void;
  /** For whenever one leaves the field, changed or not: whatever the value becomes is shown from now on. */
  readonly handOver: () => void;
  /** Drops the draft for the value as it is. */
  readonly drop: () => void;
}

/**
 * The draft of a value. It follows the value, and the result of a submitted draft; but a text being
 * typed is not replaced when the value changes.
 */
export function useDraft(value: string): Draft {
  const [typed, type] = useState(value);
  const handed = useRef(value);
  useEffect(() => {
    const { current } = handed;
    handed.current = value;
    type((now) => (now === current ? value : now));
  }, [value]);
  const drop = useCallback(() => {
    handed.current = value;
    type(value);
  }, [value]);
  const handOver = () => {
    handed.current = typed;
  };
  return { typed, type, handOver, drop };
}
