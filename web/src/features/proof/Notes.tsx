import type { Pressing } from "../../api/client";

/** What went wrong with a pressing, and with files of it. */
export function Notes({ pressing }: { pressing: Pressing }) {
  return (
    <>
      {pressing.error && (
        <p className="sheet note" role="alert">
          {pressing.error}
        </p>
      )}
      {pressing.lines
        .filter((line) => line.error && line.error !== pressing.error)
        .map((line) => (
          <p key={line.number} className="sheet note" role={line.state === "failed" ? "alert" : undefined}>
            <b>{line.name}</b>: {line.error}
          </p>
        ))}
    </>
  );
}
