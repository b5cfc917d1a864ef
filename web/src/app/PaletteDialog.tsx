import { useQuery } from "@tanstack/react-query";
import { Input, type InputRef, Modal } from "antd";
import { type KeyboardEvent as ReactKey, type RefObject, useEffect, useId, useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { api } from "../api/client";
import { type Command, fits, keyWords, useCommandsHere } from "../shared/commands/commands";
import { wordsFor } from "../shared/commands/synonyms";
import { useLastMix } from "../shared/lastMix";
import { when } from "../shared/text/pressings";
import { PLACES } from "./places";

interface Found {
  readonly id: string;
  readonly name: string;
  readonly what: string;
  readonly key?: string | undefined;
  readonly run: () => void;
}

const MOST = 60;

/** Any action, place, mix, range, delivery, station, brief, running order or pressing by its name. */
export function PaletteDialog({ open, ...choosing }: PaletteProps & { open: boolean }) {
  const { field, close } = choosing;
  return (
    <Modal
      title="Search commands"
      open={open}
      footer={null}
      destroyOnHidden
      onCancel={close}
      // The dialog takes the focus when it opens, and gives it to what one types into.
      afterOpenChange={(now) => now && field.current?.focus()}
      width={640}
      className="palette-dialog"
    >
      <Choosing {...choosing} />
    </Modal>
  );
}

interface PaletteProps {
  field: RefObject<InputRef | null>;
  typed: string;
  setTyped: (text: string) => void;
  close: () => void;
  toggleMode: () => void;
}

function Choosing({ field, typed, setTyped, close, toggleMode }: PaletteProps) {
  const [at, setAt] = useState(0);
  const list = useId();
  const found = useFound(typed, toggleMode);
  const chosen = Math.min(at, found.length - 1);
  const run = (one: Found | undefined) => {
    if (!one) return;
    close();
    // After the palette is closed, so that the command finds the page as it was.
    setTimeout(one.run, 0);
  };
  useEffect(() => {
    document.getElementById(`${list}-${chosen}`)?.scrollIntoView({ block: "nearest" });
  }, [list, chosen]);
  const onKey = (event: ReactKey) => {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 8, PageUp: -8 }[event.key];
    if (step) {
      event.preventDefault();
      setAt(Math.max(0, Math.min(found.length - 1, chosen + step)));
    } else if (event.key === "Enter") {
      event.preventDefault();
      run(found[chosen]);
    }
  };
  return (
    <>
      <Input
        ref={field}
        aria-label="Search"
        role="combobox"
        aria-expanded
        aria-controls={list}
        aria-activedescendant={found.length ? `${list}-${chosen}` : undefined}
        placeholder="Search actions, mixes, ranges, deliveries, briefs, pressings"
        value={typed}
        onChange={(event) => {
          setTyped(event.target.value);
          setAt(0);
        }}
        onKeyDown={onKey}
      />
      <div id={list} role="listbox" aria-label="Results" className="palette">
        {found.map((one, index) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the field above has the keys
          <div
            key={one.id}
            id={`${list}-${index}`}
            role="option"
            tabIndex={-1}
            aria-selected={index === chosen}
            onClick={() => run(one)}
          >
            <span>{one.name}</span>
            <span className="quiet">{one.what}</span>
            {one.key && <kbd>{one.key}</kbd>}
          </div>
        ))}
      </div>
      {!found.length && <p className="quiet">No results. Try fewer words.</p>}
    </>
  );
}

function useFound(typed: string, toggleMode: () => void): readonly Found[] {
  const go = useNavigate();
  const here = useCommandsHere();
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf });
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const orders = useQuery({ queryKey: ["orders"], queryFn: api.orders });
  const mix = useLastMix((last) => last.id);
  const words = typed.trim();
  const record = useQuery({
    queryKey: ["pressings", "palette", words],
    queryFn: () => api.record(words, "", null),
    enabled: words.length > 1,
    placeholderData: (before) => before,
  });
  return useMemo(() => {
    const all: Found[] = here.map((one: Command, index) => ({
      id: `here-${index}`,
      name: one.name,
      what: one.thing ?? "here",
      key: one.key && keyWords(one.key),
      run: () => one.run(),
    }));
    for (const { name, to } of PLACES) all.push({ id: name, name, what: "place", run: () => void go(to) });
    if (mix !== null)
      all.push({ id: "bench", name: "Bench", what: "place", run: () => void go(`/bench/${mix}`) });
    all.push({ id: "mode", name: "Switch between dark and light", what: "appearance", run: toggleMode });
    for (const one of shelf.data?.mixes ?? [])
      all.push({ id: `m${one.id}`, name: one.title, what: "mix", run: () => void go(`/bench/${one.id}`) });
    for (const one of orders.data ?? [])
      all.push({
        id: `o${one.id}`,
        name: one.title,
        what: "running order",
        run: () => void go(`/order/${one.id}`),
      });
    for (const one of briefs.data ?? [])
      all.push({
        id: `b${one.id}`,
        name: one.title,
        what: "brief",
        run: () => void go(`/briefs?brief=${one.id}`),
      });
    const ranked = all
      .map((one) => ({
        one,
        score: fits(`${wordsFor(one.name)} ${one.what}`, words) + fits(one.name, words),
      }))
      .filter(({ score }) => score > 0)
      .sort((a, b) => b.score - a.score)
      .map(({ one }) => one);
    // The record finds by tags and checksums as well: what it found stands, whatever its name.
    const pressings = (words.length > 1 ? (record.data?.rows ?? []) : []).slice(0, 8).map((one) => ({
      id: `p${one.id}`,
      name: `Pressing ${one.id}, ${one.mix_title}`,
      what: when(one.made_at),
      run: () => void go(`/press/${one.id}`),
    }));
    return [...ranked.slice(0, MOST), ...pressings];
  }, [here, shelf.data, orders.data, briefs.data, record.data, mix, words, go, toggleMode]);
}
