import { Button } from "antd";
import { type ReactNode, useId } from "react";

/** A labelled control that shows when it differs from the brief, with a button to reset it. */
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
  /** Place the control below its label, full width. */
  wide?: boolean;
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className={`delivery-field${wide ? " wide" : ""}${departs ? " departs" : ""}`}>
      <label htmlFor={id}>{label}</label>
      {children(id)}
      {departs && (
        <Button size="small" type="link" onClick={back} aria-label={`${backLabel}: ${label}`}>
          {backLabel}
        </Button>
      )}
    </div>
  );
}
