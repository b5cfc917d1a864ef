import { Input } from "antd";
import type { TagField } from "../../api/client";
import { useDraft } from "../../shared/useDraft";

export const cellId = (mix: number, field: string) => `sheet-${mix}-${field}`;

export function GridCell({
  id,
  label,
  field,
  text,
  problem,
  below,
  setText,
  paste,
}: {
  id: string;
  label: string;
  field: TagField;
  text: string;
  problem: string | undefined;
  /** The next cell after Enter. */
  below: string;
  setText: (text: string) => void;
  paste: (block: string) => void;
}) {
  const { typed, type, handOver } = useDraft(text);
  const keep = () => {
    handOver();
    if (typed.trim() !== text) setText(typed);
  };
  return (
    <Input
      id={id}
      size="small"
      variant="borderless"
      aria-label={label}
      title={problem ?? field.hint}
      status={problem ? "warning" : ""}
      value={typed}
      maxLength={field.most}
      onChange={(event) => type(event.target.value)}
      onBlur={keep}
      onPressEnter={(event) => {
        event.currentTarget.blur();
        if (below !== id) document.getElementById(below)?.focus();
      }}
      onPaste={(event) => {
        const block = event.clipboardData.getData("text/plain");
        if (!/[\t\n]/.test(block.trim())) return;
        event.preventDefault();
        paste(block);
      }}
    />
  );
}
