import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Dropdown, Input, InputNumber, Select } from "antd";
import { useState } from "react";
import {
  api,
  type BenchState,
  type LabelPattern,
  type Mix,
  type Row,
  type TicketLine,
} from "../../../api/client";
import { useDropOffs } from "../../../shared/sending/queries";
import { useDraft } from "../../../shared/useDraft";
import { settledOf, withLine } from "../model";
import { useLabelFields, useLabelPatterns, useTicket } from "../queries";
import { useSession, useSetOut } from "../session";
import { Field } from "./Field";

interface NameControlsProps {
  mix: Mix;
  row: Row;
  line: TicketLine;
}

const CLASHES: { value: BenchState["clash"]; label: string }[] = [
  { value: "keep-both", label: "Keep both (add a number)" },
  { value: "replace", label: "Replace existing file" },
  { value: "skip", label: "Skip this file" },
];

/** The label pattern of a delivery: typed with its names shown as they come out, written in a style, kept for later. */
export function NameControls({ mix, row, line }: NameControlsProps) {
  const { set: setBench, setLine } = useSession();
  const bench = useSetOut();
  const now = settledOf(row, line);
  const { typed, type, handOver } = useDraft(now.label_pattern);
  const fields = useLabelFields().data ?? [];
  const kept = useLabelPatterns().data ?? [];
  const dropOffs = useDropOffs().data?.drop_offs ?? [];
  const changes = line.changes;
  const set = (pattern: string) => setLine({ ...line, changes: { ...changes, label_pattern: pattern } });
  const keep = () => {
    const pattern = typed.trim();
    handOver();
    if (pattern && pattern !== now.label_pattern) set(pattern);
  };
  const insert = (field: string) => {
    const pattern = `${typed} {${field}}`.trim();
    type(pattern);
    set(pattern);
  };
  const setStyle = (style: Partial<LabelPattern["style"]>) =>
    setLine({ ...line, changes: { ...changes, style: { ...now.style, ...style } } });
  const take = (name: string) => {
    const found = kept.find((one) => one.name === name);
    if (!found) return;
    type(found.pattern);
    setLine({ ...line, changes: { ...changes, label_pattern: found.pattern, style: found.style } });
  };
  return (
    <div className="delivery-controls">
      <Field
        label="Label pattern"
        wide
        departs={changes.label_pattern !== null}
        back={() => setLine({ ...line, changes: { ...changes, label_pattern: null } })}
      >
        {(id) => (
          <Input
            id={id}
            size="small"
            value={typed}
            maxLength={300}
            onChange={(event) => type(event.target.value)}
            onBlur={keep}
            onPressEnter={keep}
            suffix={
              <Dropdown
                trigger={["click"]}
                menu={{
                  className: "field-menu",
                  items: fields.map(({ name, meaning }) => ({
                    key: name,
                    label: (
                      <>
                        <code>{`{${name}}`}</code> {meaning}
                      </>
                    ),
                  })),
                  onClick: ({ key }) => insert(key),
                }}
              >
                <button type="button" className="plain-button">
                  Fields
                </button>
              </Dropdown>
            }
          />
        )}
      </Field>
      <Preview mix={mix} bench={bench} line={line} pattern={typed} />
      <Field
        label="Digits, case, spaces"
        wide
        departs={changes.style !== null}
        back={() => setLine({ ...line, changes: { ...changes, style: null } })}
      >
        {(id) => (
          <span className="style-fields">
            <InputNumber
              id={id}
              size="small"
              min={1}
              max={4}
              value={now.style.digits}
              suffix="digits"
              onChange={(digits) => digits !== null && setStyle({ digits })}
            />
            <Select
              size="small"
              aria-label="Case of the name"
              value={now.style.case}
              options={[
                { value: "as-is" as const, label: "Unchanged" },
                { value: "lower" as const, label: "Lower case" },
                { value: "upper" as const, label: "Upper case" },
              ]}
              onChange={(letters) => setStyle({ case: letters })}
            />
            <Select
              size="small"
              aria-label="Spaces of the name"
              value={now.style.spaces}
              options={[
                { value: "keep" as const, label: "Spaces" },
                { value: "hyphen" as const, label: "Hyphens" },
                { value: "underscore" as const, label: "Underscores" },
                { value: "none" as const, label: "No spaces" },
              ]}
              onChange={(spaces) => setStyle({ spaces })}
            />
          </span>
        )}
      </Field>
      <Field
        label="Send to"
        wide
        departs={changes.sends_to !== null}
        back={() => setLine({ ...line, changes: { ...changes, sends_to: null } })}
      >
        {(id) => (
          <Select
            id={id}
            mode="multiple"
            size="small"
            placeholder="not sent automatically"
            value={[...now.sends_to]}
            options={dropOffs.map(({ drop_off: { name } }) => ({ value: name, label: name }))}
            notFoundContent="No drop-offs. Add one in Outbox."
            onChange={(sends_to) => setLine({ ...line, changes: { ...changes, sends_to } })}
          />
        )}
      </Field>
      <KeptPatterns
        kept={kept}
        take={take}
        pattern={{ name: "", pattern: now.label_pattern, style: now.style }}
      />
      <Field
        label="If the file exists"
        departs={bench.clash !== "keep-both"}
        back={() => setBench({ ...bench, clash: "keep-both" })}
        backLabel="keep both"
      >
        {(id) => (
          <Select
            id={id}
            size="small"
            value={bench.clash}
            options={CLASHES}
            onChange={(clash) => setBench({ ...bench, clash })}
          />
        )}
      </Field>
    </div>
  );
}

/** Every file name of this delivery with the typed pattern, before it is saved. */
function Preview({
  mix,
  bench,
  line,
  pattern,
}: {
  mix: Mix;
  bench: BenchState;
  line: TicketLine;
  pattern: string;
}) {
  const draft = withLine(bench, {
    ...line,
    changes: { ...line.changes, label_pattern: pattern.trim() || "{title}" },
  });
  const ticket = useTicket(mix, draft);
  const refused =
    ticket.data?.refused.find((one) => one.line_id === line.id)?.sentence ?? ticket.error?.message;
  const rows = ticket.data?.rows.filter((one) => one.line_id === line.id) ?? [];
  if (refused) {
    return (
      <p className="field-error" role="alert">
        {refused}
      </p>
    );
  }
  return (
    <ul className="name-preview" aria-label="Names with this pattern">
      {rows.map((one) => (
        <li key={one.file_name}>
          <b>{one.file_name}</b>
          {one.clash === "disk" && (
            <small>
              {one.skipped ? "exists, skipped" : one.replaces ? "exists, replaced" : "exists, gets a number"}
            </small>
          )}
          {one.clash === "ticket" && <small>same name as another delivery, gets a number</small>}
        </li>
      ))}
    </ul>
  );
}

function KeptPatterns({
  kept,
  take,
  pattern,
}: {
  kept: readonly LabelPattern[];
  take: (name: string) => void;
  pattern: LabelPattern;
}) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const settle = (patterns: LabelPattern[]) => {
    queries.setQueryData(["label-patterns"], patterns);
    setName("");
  };
  const keep = useMutation({ mutationFn: api.keepPattern, onSuccess: settle });
  const remove = useMutation({ mutationFn: api.removePattern, onSuccess: settle });
  const there = kept.find((one) => one.name === name.trim());
  const problem = keep.error ?? remove.error;
  return (
    <Field label="Saved patterns" wide departs={false} back={() => undefined}>
      {(id) => (
        <span className="kept-patterns">
          {kept.length > 0 && (
            <Select
              size="small"
              aria-label="Choose a saved pattern"
              placeholder="Choose"
              value={null}
              popupMatchSelectWidth={260}
              options={kept.map((one) => ({ value: one.name, label: `${one.name}: ${one.pattern}` }))}
              onChange={(chosen: string | null) => chosen && take(chosen)}
            />
          )}
          <Input
            id={id}
            size="small"
            value={name}
            maxLength={60}
            placeholder="Pattern name"
            onChange={(event) => setName(event.target.value)}
            onPressEnter={() => name.trim() && keep.mutate({ ...pattern, name: name.trim() })}
          />
          <Button
            size="small"
            disabled={!name.trim()}
            loading={keep.isPending}
            onClick={() => keep.mutate({ ...pattern, name: name.trim() })}
          >
            Save
          </Button>
          {there && (
            <Button size="small" type="text" onClick={() => remove.mutate(there.name)}>
              Delete
            </Button>
          )}
          {problem && (
            <span className="field-error" role="alert">
              {problem.message}
            </span>
          )}
        </span>
      )}
    </Field>
  );
}
