import { Button } from "antd";
import { type ReactNode, useId } from "react";

/** A labelled control that says when it departs from the brief, and takes it back on one click. */
export function Field({
  label,
  departs,
  back,
  backLabel = "Reset to brief",
  wide = false,
  children,
}: {
  label: string;
  departs: boolean;
  back: () => void;
  backLabel?: string;
  /** Whether the control stands below its label, over the whole width. */
  wide?: boolean;
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className={`delivery-field${wide ? " wide" : ""}${departs ? " departs" : ""}`}>
      <label htmlFor={id}>{label}</label>
      {children(id)}
      {departs && (
        <Button size="small" type="link" onClick={back} aria-label={`${label} ${backLabel} has it`}>
          {backLabel}
        </Button>
      )}
    </div>
  );
}
