import { useQuery, useQueryClient } from "@tanstack/react-query";
import type { InputRef } from "antd";
import { type DragEvent, useCallback, useDeferredValue, useMemo, useRef, useState } from "react";
import { api, upload } from "../../api/client";
import { useCommands } from "../../shared/commands/commands";
import { Empty } from "../../shared/Empty";
import { filesDropped } from "../../shared/files/dropped";
import { useUploads } from "../../shared/files/uploads";
import { useRemembered } from "../../shared/remembered";
import { counted } from "../../shared/text/format";
import { arranged, chosenWith, type Order } from "./arrange";
import { BringIn } from "./BringIn";
import { ChosenBar, useChosen } from "./ChosenBar";
import { BatchDialog } from "./dialogs/BatchDialog";
import { TakeOffDialog } from "./dialogs/TakeOffDialog";
import { VersionsDialog } from "./dialogs/VersionsDialog";
import { Guide } from "./guide/Guide";
import { ShelfGrid } from "./ShelfGrid";
import { ShelfTools, type View } from "./ShelfTools";
import { Waiting } from "./Waiting";

const NOTHING: readonly never[] = [];
const NONE = { what: "none" } as const;

export function ShelfPage() {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: ["shelf"] });
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf });
  const defaults = useQuery({
    queryKey: ["defaults"],
    queryFn: api.defaults,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { sending, send, dismiss } = useUploads(upload, refresh);
  const [over, setOver] = useState(false);
  const [guided, setGuided] = useState(false);
  const [leftOut, setLeftOut] = useState("");
  const [find, setFind] = useState("");
  const [order, setOrder] = useRemembered<Order>("shelf-order", { by: "added", turned: false });
  const [view, setView] = useRemembered<View>("shelf-view", "cards");
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const [since, setSince] = useState<number | null>(null);
  const [dialog, setDialog] = useState<{ what: "none" | "press" | "versions" | "off"; id?: number }>(NONE);
  const field = useRef<InputRef>(null);
  const mixes = shelf.data?.mixes ?? NOTHING;
  const arrivals = shelf.data?.arrivals ?? NOTHING;
  const typed = useDeferredValue(find);
  const shown = useMemo(() => arranged(mixes, typed, order), [mixes, typed, order]);
  const titles = useMemo(() => new Map(mixes.map((mix) => [mix.id, mix.title])), [mixes]);
  const chosen = useMemo(() => shown.filter((mix) => ticked.has(mix.id)), [shown, ticked]);
  const acts = useChosen(chosen, setTicked);
  const chooseAll = () => setTicked(new Set(shown.map((mix) => mix.id)));
  const chooseNone = () => setTicked(new Set());
  const forChosen = (name: string, key: string, run: () => void) =>
    chosen.length ? [{ name, key, run }] : [];
  useCommands([
    { name: "Quick start", run: () => setGuided(true) },
    { name: "Search mixes", key: "f", run: () => field.current?.focus() },
    {
      name: "Switch between cards and list",
      key: "v",
      run: () => setView(view === "cards" ? "list" : "cards"),
    },
    { name: "Select all shown", key: "mod+a", run: chooseAll },
    ...forChosen("Clear selection", "Escape", chooseNone),
    ...forChosen("Press selected mixes", "p", () => setDialog({ what: "press" })),
    ...forChosen("New running order from selection", "o", () => acts.order.mutate()),
    ...forChosen("Tag selected mixes", "t", acts.tag),
  ]);
  const drop = async (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    let files: File[];
    try {
      files = await filesDropped(event.dataTransfer);
    } catch (error) {
      setLeftOut(`Could not read the dropped items: ${error instanceof Error ? error.message : error}.`);
      return;
    }
    // From folders, only files with audio extensions are added; a single file is always tried.
    const suffixes = defaults.data && new Set(defaults.data.read_suffixes);
    const sound =
      files.length === 1 || !suffixes ? files : files.filter((file) => suffixes.has(suffixOf(file.name)));
    const other = files.length - sound.length;
    setLeftOut(other ? `${counted(other, "file")} skipped (not audio).` : "");
    setGuided(false);
    send(sound);
  };
  const of = mixes.find((mix) => mix.id === dialog.id);
  const show = useCallback((id: number, what: "versions" | "off") => setDialog({ what, id }), []);
  const latest = useRef({ shown, since });
  latest.current = { shown, since };
  // The same for all mixes and for good: one that did not change is not drawn again as one scrolls.
  const choose = useCallback((id: number, on: boolean, all: boolean) => {
    const { shown, since } = latest.current;
    const ids = shown.map((mix) => mix.id);
    setTicked((now) => chosenWith(now, ids, id, on, all ? since : null));
    setSince(id);
  }, []);
  const empty = shelf.isSuccess && !mixes.length && !sending.length;
  const stay = useCallback(() => setGuided(true), []);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has the button and the path field beside it
    <div
      className={`shelf${over ? " shelf-over" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      }}
      onDrop={drop}
    >
      <header className="page-head">
        <h1>Shelf</h1>
        <p>Drop mixes or folders anywhere. Originals are never changed.</p>
      </header>
      {(guided || empty) && (
        <Guide mixes={mixes} close={mixes.length ? () => setGuided(false) : null} stay={stay} />
      )}
      <BringIn
        send={(files) => {
          setGuided(false);
          send(files);
        }}
        onArrived={() => {
          setGuided(false);
          void refresh();
        }}
        guide={guided || empty ? null : () => setGuided(true)}
      />
      {leftOut && <p role="status">{leftOut}</p>}
      {mixes.length > 0 && (
        <ShelfTools
          find={find}
          setFind={setFind}
          field={field}
          order={order}
          setOrder={setOrder}
          view={view}
          setView={setView}
          summary={
            shown.length === mixes.length
              ? `${count(mixes.length)}`
              : `${shown.length} of ${count(mixes.length)}`
          }
        />
      )}
      {chosen.length > 0 && (
        <ChosenBar
          chosen={chosen}
          acts={acts}
          press={() => setDialog({ what: "press" })}
          chooseAll={chooseAll}
          chooseNone={chooseNone}
        />
      )}
      {dialog.what === "press" && (
        <BatchDialog mixes={mixes} chosen={chosen} onClose={() => setDialog(NONE)} />
      )}
      {of && dialog.what === "versions" && <VersionsDialog mix={of} onClose={() => setDialog(NONE)} />}
      {of && dialog.what === "off" && <TakeOffDialog mix={of} onClose={() => setDialog(NONE)} />}
      {mixes.length > 0 && !shown.length && (
        <Empty title="No matching mixes">No title or path contains “{typed}”.</Empty>
      )}
      {mixes.length > 0 && (
        <ShelfGrid
          mixes={shown}
          view={view}
          order={order}
          setOrder={setOrder}
          chosen={ticked}
          choose={choose}
          show={show}
          changes={shelf.data?.changes ?? NOTHING}
          titles={titles}
        />
      )}
      {/* Below the mixes: changes here move none of them from under the pointer. */}
      {!(guided && !mixes.length) && (
        <Waiting arrivals={arrivals} sending={sending} dismiss={dismiss} onChange={refresh} />
      )}
    </div>
  );
}

const count = (mixes: number) => counted(mixes, "mix", "mixes");
const suffixOf = (name: string) => name.slice(name.lastIndexOf(".")).toLowerCase();
