import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox, Input, Select, Switch } from "antd";
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { api, type Mix, sheetsUrl, type TagField } from "../../api/client";
import {
  brought,
  changedSheets,
  columnsOf,
  type Edits,
  editsBetween,
  filled,
  filledDown,
  NO_EDITS,
  pasted,
  type Sheets,
  sheetsOf,
  textOf,
  withEdits,
} from "./model";
import "./tags.css";

/** The tag sheets of all mixes side by side: one line a mix, one column a field. */
export function TagsPage() {
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf });
  const fields = useQuery({ queryKey: ["tag-fields"], queryFn: api.tagFields });
  const problem = shelf.error ?? fields.error;
  if (problem) {
    return (
      <div className="empty">
        <p className="empty-title">The tag sheets cannot be shown</p>
        <p>{problem.message}</p>
      </div>
    );
  }
  if (!shelf.data || !fields.data) return null;
  if (!shelf.data.mixes.length) {
    return (
      <div className="empty">
        <p className="empty-title">No tag sheets yet</p>
        <p>Every mix on the shelf has one. Bring a mix in first.</p>
        <Link to="/shelf">Go to the shelf</Link>
      </div>
    );
  }
  return <Grid mixes={shelf.data.mixes} fields={fields.data} />;
}

/** What was written and not kept yet: it is there again when one comes back to this screen. */
let draft: Edits = NO_EDITS;

/** Asks before the page is closed while something is not kept. */
function useAsking(unkept: boolean) {
  useEffect(() => {
    if (!unkept) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [unkept]);
}

const cellId = (mix: number, field: string) => `sheet-${mix}-${field}`;

function Grid({ mixes, fields }: { mixes: readonly Mix[]; fields: readonly TagField[] }) {
  const queries = useQueryClient();
  const [history, setHistory] = useState<readonly Edits[]>(() =>
    draft.size ? [NO_EDITS, draft] : [NO_EDITS],
  );
  const [all, setAll] = useState(false);
  const [chosen, setChosen] = useState<readonly number[]>([]);
  const [told, setTold] = useState("");
  const chooser = useRef<HTMLInputElement>(null);
  // Only what was written is held here: what is kept elsewhere meanwhile, on a bench say, is not overwritten.
  const edits = history[history.length - 1] ?? NO_EDITS;
  const kept = sheetsOf(mixes);
  const sheets = withEdits(kept, edits);
  const set = (next: Sheets) =>
    next !== sheets && setHistory([...history, editsBetween(kept, next)].slice(-100));
  const changed = changedSheets(kept, edits);
  const columns = columnsOf(fields, all);
  const problems = useProblems(mixes, sheets);
  const [first] = problems;
  useEffect(() => {
    draft = edits;
  }, [edits]);
  useAsking(changed.length > 0);
  const [sought, setSought] = useState<string | null>(null);
  useEffect(() => {
    if (sought) document.getElementById(sought)?.focus();
    setSought(null);
  }, [sought]);
  const keep = useMutation({
    mutationFn: () => api.keepSheets(changed),
    onSuccess: async (stored) => {
      for (const mix of stored) queries.setQueryData(["mix", mix.id], mix);
      await queries.invalidateQueries({ queryKey: ["shelf"] });
      // What was written while this was on its way is not kept yet.
      const now = new Map([...kept, ...sheetsOf(stored)]);
      setHistory((before) => {
        const left = editsBetween(now, withEdits(now, before.at(-1) ?? NO_EDITS));
        return left.size ? [NO_EDITS, left] : [NO_EDITS];
      });
      setTold(stored.length === 1 ? "One sheet is kept." : `${stored.length} sheets are kept.`);
    },
  });
  const read = useMutation({
    mutationFn: async (file: File) => api.readSheets(await file.text()),
    onSuccess: (found) => {
      const next = brought(sheets, mixes, found);
      set(next.sheets);
      const lost = next.lost.length ? ` No mix on the shelf is called ${next.lost.join(", ")}.` : "";
      setTold(
        `${found.length - next.lost.length} of ${found.length} sheets were brought in; look, then keep.${lost}`,
      );
    },
  });
  const into = chosen.length ? chosen : mixes.map((mix) => mix.id);
  const toggle = (id: number) =>
    setChosen(chosen.includes(id) ? chosen.filter((one) => one !== id) : [...chosen, id]);
  return (
    <div className="tags">
      <header className="page-head">
        <h1>Tag sheets</h1>
        <p>One line a mix. What is written here goes into every file of it, in the way of each format.</p>
        <Button loading={read.isPending} onClick={() => chooser.current?.click()}>
          Import
        </Button>
        <Button href={sheetsUrl("csv")} download>
          Export CSV
        </Button>
        <Button href={sheetsUrl("json")} download>
          Export JSON
        </Button>
        <input
          ref={chooser}
          type="file"
          hidden
          accept=".csv,.json"
          data-testid="sheets-chooser"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) read.mutate(file);
            event.target.value = "";
          }}
        />
      </header>
      <FillBar
        fields={fields}
        count={into.length}
        all={!chosen.length}
        fill={(field, text) => set(filled(sheets, into, field, text))}
        down={(field) => set(filledDown(sheets, into, field))}
      />
      <section className="sheet tags-room" aria-label="Tag sheets of all mixes">
        <table>
          <thead>
            <tr>
              <th>
                <Checkbox
                  aria-label="Choose all mixes"
                  checked={chosen.length === mixes.length}
                  indeterminate={chosen.length > 0 && chosen.length < mixes.length}
                  onChange={() => setChosen(chosen.length === mixes.length ? [] : mixes.map((mix) => mix.id))}
                />
              </th>
              <th scope="col">Mix</th>
              {columns.map((field) => (
                <th key={field.name} scope="col">
                  {field.title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {mixes.map((mix, at) => (
              <tr key={mix.id}>
                <td>
                  <Checkbox
                    aria-label={`Choose ${mix.title}`}
                    checked={chosen.includes(mix.id)}
                    onChange={() => toggle(mix.id)}
                  />
                </td>
                <th scope="row">
                  <Link to={`/bench/${mix.id}`}>{mix.title}</Link>
                </th>
                {columns.map((field) => (
                  <td key={field.name}>
                    <GridCell
                      id={cellId(mix.id, field.name)}
                      label={`${field.title} of ${mix.title}`}
                      field={field}
                      text={textOf(sheets.get(mix.id), field.name)}
                      problem={problems.get(cellId(mix.id, field.name))?.sentence}
                      setText={(text) => set(filled(sheets, [mix.id], field.name, text))}
                      below={cellId(mixes[at + 1]?.id ?? mix.id, field.name)}
                      paste={(block) =>
                        set(
                          pasted(
                            sheets,
                            mixes.map((one) => one.id),
                            columns.map((one) => one.name),
                            { id: mix.id, field: field.name },
                            block,
                          ),
                        )
                      }
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <footer className="tags-foot">
        <label htmlFor="all-fields">
          <Switch id="all-fields" size="small" checked={all} onChange={setAll} /> All {fields.length} fields
        </label>
        <span aria-live="polite">{keep.error?.message ?? read.error?.message ?? told}</span>
        {first && (
          <Button
            type="text"
            className="over"
            onClick={() => {
              setAll(all || !columns.some((field) => field.name === first[1].field));
              setSought(cellId(first[1].mix, first[1].field));
            }}
          >
            {first[1].sentence}
            {problems.size > 1 && ` And ${problems.size - 1} more.`}
          </Button>
        )}
        <Button disabled={history.length < 2} onClick={() => setHistory(history.slice(0, -1))}>
          Undo
        </Button>
        <Button
          type="primary"
          disabled={!changed.length}
          loading={keep.isPending}
          onClick={() => keep.mutate()}
        >
          {changed.length === 1 ? "Keep 1 sheet" : `Keep ${changed.length} sheets`}
        </Button>
      </footer>
    </div>
  );
}

function FillBar({
  fields,
  count,
  all,
  fill,
  down,
}: {
  fields: readonly TagField[];
  count: number;
  all: boolean;
  fill: (field: string, text: string) => void;
  down: (field: string) => void;
}) {
  const [field, setField] = useState("artist");
  const [text, setText] = useState("");
  return (
    <form
      className="fill-bar"
      onSubmit={(event) => {
        event.preventDefault();
        fill(field, text);
      }}
    >
      <span>
        In {all ? "all" : ""} {count === 1 ? "1 mix" : `${count} mixes`}, put
      </span>
      <Input
        value={text}
        aria-label="Text to fill in"
        placeholder="text; {n} counts the mixes"
        onChange={(event) => setText(event.target.value)}
      />
      <span>into</span>
      <Select
        aria-label="Field to fill"
        showSearch={{ optionFilterProp: "label" }}
        value={field}
        options={fields.map((one) => ({ value: one.name, label: one.title }))}
        onChange={setField}
      />
      <Button htmlType="submit">Fill</Button>
      <Button onClick={() => down(field)} title="The text of the first mix that has one, in all of them">
        Fill down
      </Button>
    </form>
  );
}

function GridCell({
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
  /** The cell that Enter goes on to. */
  below: string;
  setText: (text: string) => void;
  paste: (block: string) => void;
}) {
  const [typed, setTyped] = useState(text);
  useEffect(() => setTyped(text), [text]);
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
      onChange={(event) => setTyped(event.target.value)}
      onBlur={() => typed.trim() !== text && setText(typed)}
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

interface Problem {
  readonly mix: number;
  readonly field: string;
  readonly sentence: string;
}

/** What on the sheets is not written as it must be, by the cell; the rules are the server's. */
function useProblems(mixes: readonly Mix[], sheets: Sheets): ReadonlyMap<string, Problem> {
  const found = useQuery({
    queryKey: ["tag-problems", [...sheets]],
    queryFn: async () => {
      const lists = await Promise.all(mixes.map((mix) => api.checkSheet(sheets.get(mix.id) ?? [])));
      const problems = mixes.flatMap((mix, at) =>
        (lists[at] ?? []).map(({ field, sentence }) => ({
          mix: mix.id,
          field,
          sentence: `${mix.title}: ${sentence}`,
        })),
      );
      return new Map(problems.map((one) => [cellId(one.mix, one.field), one] as const));
    },
    placeholderData: (before) => before,
  });
  return found.data ?? new Map();
}
