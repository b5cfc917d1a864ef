import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Switch } from "antd";
import { useEffect, useState } from "react";
import { useStore } from "zustand";
import { api, type KeptSheet, sheetsUrl, type TagField } from "../../api/client";
import { useCommands } from "../../shared/commands/commands";
import { Empty } from "../../shared/Empty";
import { ChooseFiles } from "../../shared/files/ChooseFiles";
import { counted } from "../../shared/text/format";
import { FillBar } from "./FillBar";
import { cellId } from "./GridCell";
import {
  brought,
  changedSheets,
  columnsOf,
  editsBetween,
  filled,
  filledDown,
  type Sheets,
  sheetsOf,
  withEdits,
} from "./model";
import { editsOf, leave, tagSession, undo, write } from "./session";
import { TagTable } from "./TagTable";
import { useProblems } from "./useProblems";

/** The tag sheets of all mixes side by side: one line a mix, one column a field. */
export function TagsPage() {
  const shelf = useQuery({ queryKey: ["shelf", "sheets"], queryFn: api.keptSheets });
  const fields = useQuery({ queryKey: ["tag-fields"], queryFn: api.tagFields });
  const problem = shelf.error ?? fields.error;
  if (problem) {
    return (
      <div className="tags">
        <Empty title="Could not load the tag sheets">{problem.message}</Empty>
      </div>
    );
  }
  if (!shelf.data || !fields.data) return null;
  if (!shelf.data.length) {
    return (
      <div className="tags">
        <header className="page-head">
          <h1>Tags</h1>
          <p>One row per mix. Written to every file of the mix.</p>
        </header>
        <Empty title="No tag sheets yet" to="/shelf" act="Open Shelf">
          Add a mix on the Shelf first.
        </Empty>
      </div>
    );
  }
  return <Grid mixes={shelf.data} fields={fields.data} />;
}

/** The mixes that a link to the page names. */
const chosenIn = (search: string) =>
  (new URLSearchParams(search).get("chosen") ?? "")
    .split(",")
    .map(Number)
    .filter(Number.isInteger)
    .filter(Boolean);

/** Asks before the page is closed while something is not kept. */
function useAsking(unkept: boolean) {
  useEffect(() => {
    if (!unkept) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [unkept]);
}

function Grid({ mixes, fields }: { mixes: readonly KeptSheet[]; fields: readonly TagField[] }) {
  const queries = useQueryClient();
  const undoable = useStore(tagSession, (view) => view.history.length > 1);
  // Only edited fields are kept here: a change saved elsewhere, on a bench for example, is not
  // overwritten.
  const edits = useStore(tagSession, editsOf);
  const [all, setAll] = useState(false);
  const [chosen, setChosen] = useState<readonly number[]>(() => chosenIn(window.location.search));
  const [note, setNote] = useState("");
  const kept = sheetsOf(mixes);
  const sheets = withEdits(kept, edits);
  const set = (next: Sheets) => next !== sheets && write(editsBetween(kept, next));
  const changed = changedSheets(kept, edits);
  const columns = columnsOf(fields, all);
  const problems = useProblems(mixes, sheets);
  const [first] = problems;
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
      // Edits made during the request are not saved yet.
      const now = new Map([...kept, ...sheetsOf(stored.map((mix) => ({ ...mix, tags: mix.bench.tags })))]);
      leave(editsBetween(now, withEdits(now, editsOf(tagSession.getState()))));
      setNote(`${counted(stored.length, "sheet")} saved.`);
    },
  });
  const read = useMutation({
    mutationFn: async (file: File) => api.readSheets(await file.text()),
    onSuccess: (found) => {
      const next = brought(sheets, mixes, found);
      set(next.sheets);
      const lost = next.lost.length ? ` No mix named ${next.lost.join(", ")}.` : "";
      setNote(
        `${found.length - next.lost.length} of ${found.length} sheets imported. Review and save.${lost}`,
      );
    },
  });
  useCommands([
    { name: "Save sheets", key: "mod+enter", run: () => changed.length && keep.mutate() },
    { name: "Undo", key: "mod+z", run: () => undoable && undo() },
    { name: "All fields on/off", key: "v", run: () => setAll(!all) },
  ]);
  const tellUnkept = () => {
    if (!changed.length) return;
    const what = counted(changed.length, "unsaved sheet");
    setNote(`${what} exported as last saved.`);
  };
  const into = chosen.length ? chosen : mixes.map((mix) => mix.id);
  return (
    <div className="tags">
      <header className="page-head">
        <h1>Tags</h1>
        <p>One row per mix. Written to every file of the mix.</p>
        <ChooseFiles
          name="sheets-chooser"
          accept=".csv,.json"
          choose={([file]) => file && read.mutate(file)}
          loading={read.isPending}
        >
          Import
        </ChooseFiles>
        <Button href={sheetsUrl("csv")} download onClick={tellUnkept}>
          Export CSV
        </Button>
        <Button href={sheetsUrl("json")} download onClick={tellUnkept}>
          Export JSON
        </Button>
      </header>
      <FillBar
        fields={fields}
        count={into.length}
        all={!chosen.length}
        fill={(field, text) => set(filled(sheets, into, field, text))}
        down={(field) => set(filledDown(sheets, into, field))}
      />
      <TagTable
        mixes={mixes}
        columns={columns}
        sheets={sheets}
        problems={problems}
        chosen={chosen}
        choose={setChosen}
        set={set}
      />
      <footer className="tags-foot">
        <label htmlFor="all-fields">
          <Switch id="all-fields" size="small" checked={all} onChange={setAll} /> All {fields.length} fields
        </label>
        <span aria-live="polite">{keep.error?.message ?? read.error?.message ?? note}</span>
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
        <Button disabled={!undoable} onClick={undo}>
          Undo
        </Button>
        <Button
          type="primary"
          disabled={!changed.length}
          loading={keep.isPending}
          onClick={() => keep.mutate()}
        >
          {`Save ${counted(changed.length, "sheet")}`}
        </Button>
      </footer>
    </div>
  );
}
