import type { Verdict } from "../../api/client";
import { VERDICTS } from "./words";

/** A verdict by shape as well as colour: a ticked disc, a half disc, a barred square. */
export function VerdictMark({ verdict, size = 18 }: { verdict: Verdict; size?: number }) {
  return (
    <svg
      className={`verdict verdict-${verdict}`}
      width={size}
      height={size}
      viewBox="0 0 20 20"
      role="img"
      aria-label={VERDICTS[verdict]}
    >
      {verdict === "ready" && (
        <>
          <circle cx="10" cy="10" r="9" fill="currentColor" />
          <path d="M5.5 10.5l3 3 6-6.5" fill="none" stroke="var(--sheet)" strokeWidth="2.2" />
        </>
      )}
      {verdict === "look" && (
        <>
          <circle cx="10" cy="10" r="8" fill="none" stroke="currentColor" strokeWidth="2" />
          <path d="M10 2a8 8 0 0 1 0 16z" fill="currentColor" />
        </>
      )}
      {verdict === "stop" && (
        <>
          <rect x="1.5" y="1.5" width="17" height="17" rx="3" fill="currentColor" />
          <path d="M5.5 10h9" stroke="var(--sheet)" strokeWidth="2.6" />
        </>
      )}
    </svg>
  );
}
