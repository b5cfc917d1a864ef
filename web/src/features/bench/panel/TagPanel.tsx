import { useMutation } from "@tanstack/react-query";
import { Button, Input, Segmented, Select, Switch } from "antd";
import { useEffect, useId, useRef, useState } from "react";
import {
  api,
  type Capability,
  coverUrl,
  type Mix,
  type Row,
  sheetsUrl,
  type TagField,
  type TagLine,
  type TicketLine,
} from "../../../api/client";
import { bytes } from "../../../shared/text/format";
import { useFormats } from "../../../shared/text/formats";
import { useDraft } from "../../../shared/useDraft";
import { settledOf, tagOf, withTag } from "../model";
import { useTagFields } from "../queries";
import { useBench, useSession, useSetOut } from "../session";
import { SetOutFile } from "../ticket/SetOutFile";
import { Field } from "./Field";

interface TagPanelProps {
  mix: Mix;
  row: Row;
  line: TicketLine;
}

const LONG = new Set(["comment", "lyrics"]);

/** The tag sheet of the mix, and beside every field what becomes of it in this file. */
export function TagPanel({ mix, row, line }: TagPanelProps) {
  const { set: setBench, setLine } = useSession();
  const bench = useSetOut();
  // The field that a finding sent here.
  const wanted = useBench((view) => view.wantedField);
  const fields = useTagFields().data ?? [];
  const can = useFormats().of(row.settled.container);
  const [whose, setWhose] = useState<"sheet" | "delivery">("sheet");
  const own = whose === "delivery";
  const changes = line.changes;
  const setText = (field: string, text: string) => {
    if (!own) return setBench({ ...bench, tags: withTag(bench.tags, field, text) });
    // A departure may be empty: then this file goes without the field.
    const rest = (changes.tags ?? []).filter(([name]) => name !== field);
    const back = text.trim() === tagOf(bench.tags, field);
    const next: [string, string][] = back ? rest : [...rest, [field, text.trim()]];
    setLine({ ...line, changes: { ...changes, tags: next.length ? next : null } });
  };
  const takeBack = (field: string) => {
    const rest = (changes.tags ?? []).filter(([name]) => name !== field);
    setLine({ ...line, changes: { ...changes, tags: rest.length ? rest : null } });
  };
  return (
    <div className="tag-panel">
      <Segmented
        size="small"
        block
        value={whose}
        options={[
          { value: "sheet", label: "All files of this mix" },
          { value: "delivery", label: "This file only" },
        ]}
        onChange={setWhose}
      />
      <p className="quiet">
        {own
          ? "Applies to this file. Empty fields are not written."
          : "Applies to every file. Name fields work too, for example {range}."}
      </p>
      <CoverField mix={mix} row={row} line={line} wanted={wanted === "cover"} />
      {fields.map((field) => (
        <TagInput
          key={`${field.name}-${whose}`}
          field={field}
          wanted={wanted === field.name}
          text={
            (own ? changes.tags?.find(([name]) => name === field.name)?.[1] : undefined) ??
            tagOf(bench.tags, field.name)
          }
          written={row.tags.lines.find((one) => one.field === field.name)}
          takeBack={() => takeBack(field.name)}
          setText={(text) => setText(field.name, text)}
        />
      ))}
      {can && <TagSettings row={row} line={line} can={can} setLine={setLine} />}
      <SheetFiles mix={mix} />
    </div>
  );
}

function TagInput({
  field,
  text,
  written,
  wanted,
  takeBack,
  setText,
}: {
  field: TagField;
  text: string;
  written: TagLine | undefined;
  wanted: boolean;
  takeBack: () => void;
  setText: (text: string) => void;
}) {
  const id = useId();
  const { typed, type, handOver } = useDraft(text);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!wanted) return;
    box.current?.scrollIntoView({ block: "center" });
    box.current?.querySelector<HTMLElement>("input, textarea")?.focus();
  }, [wanted]);
  const names = written?.names.length ? written.names.join(", ") : "not supported";
  const shared = {
    id,
    size: "small" as const,
    value: typed,
    maxLength: field.most,
    "aria-describedby": `${id}-names`,
    placeholder: field.hint,
    onBlur: () => {
      handOver();
      if (typed.trim() !== text) setText(typed);
    },
    status: written?.note ? ("warning" as const) : ("" as const),
  };
  return (
    <div className={`tag-field${written?.departs ? " departs" : ""}`} ref={box}>
      <span className="tag-label">
        <label htmlFor={id}>{field.title}</label>
        <small id={`${id}-names`} className="tag-told tag-names" title={`Name in this format: ${names}`}>
          {names}
        </small>
      </span>
      {LONG.has(field.name) ? (
        <Input.TextArea
          {...shared}
          autoSize={{ minRows: 1, maxRows: 5 }}
          onChange={(event) => type(event.target.value)}
        />
      ) : (
        <Input
          {...shared}
          onChange={(event) => type(event.target.value)}
          onPressEnter={(event) => event.currentTarget.blur()}
        />
      )}
      {written?.departs && (
        <Button size="small" type="link" onClick={takeBack} aria-label={`Reset to tag sheet: ${field.title}`}>
          Reset to tag sheet
        </Button>
      )}
      {written?.note && <small className="tag-note">{written.note}</small>}
      {written?.written && written.written !== text && !written.note && (
        <small className="tag-told">written as {written.written}</small>
      )}
    </div>
  );
}

function CoverField({ mix, row, line, wanted }: TagPanelProps & { wanted: boolean }) {
  const { bench: now, set: setBench, setLine } = useSession();
  const bench = useSetOut();
  const chooser = useRef<HTMLInputElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const keep = useMutation({
    mutationFn: (file: File) => api.keepCover(mix.id, file),
    onSuccess: (kept) => setBench({ ...now(), cover: kept.name }),
  });
  useEffect(() => {
    if (wanted) box.current?.querySelector("button")?.focus();
  }, [wanted]);
  const picture = keep.data?.name === bench.cover ? keep.data : undefined;
  const taken = settledOf(row, line).cover;
  return (
    <div className="tag-cover" ref={box}>
      {bench.cover ? (
        <img src={coverUrl(mix.id, bench.cover)} alt="Cover" width={64} height={64} />
      ) : (
        <span className="tag-no-cover">no cover</span>
      )}
      <span>
        <Button size="small" loading={keep.isPending} onClick={() => chooser.current?.click()}>
          {bench.cover ? "Replace cover" : "Choose cover"}
        </Button>
        {bench.cover && (
          <>
            <Button size="small" type="text" onClick={() => setBench({ ...bench, cover: "" })}>
              Remove
            </Button>
            <span className="tag-switch">
              <Switch
                size="small"
                aria-label="Cover in this file"
                checked={taken}
                onChange={(cover) =>
                  setLine({ ...line, changes: { ...line.changes, cover: cover ? null : false } })
                }
              />{" "}
              in this file
            </span>
          </>
        )}
        <small className="tag-told">{row.tags.cover_note ?? row.tags.cover_names.join(", ")}</small>
        {picture && (
          <small>
            {picture.width} × {picture.height}, {bytes(picture.bytes)}
            {picture.square ? "" : "; not square"}
            {picture.note && `; ${picture.note}`}
          </small>
        )}
        {keep.error && (
          <small className="tag-note" role="alert">
            {keep.error.message}
          </small>
        )}
      </span>
      <input
        ref={chooser}
        type="file"
        hidden
        accept="image/*"
        data-testid="cover-chooser"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) keep.mutate(file);
          event.target.value = "";
        }}
      />
    </div>
  );
}

/** What else is written: version of ID3, loudness for players, markers. */
function TagSettings({
  row,
  line,
  can,
  setLine,
}: {
  row: Row;
  line: TicketLine;
  can: Capability;
  setLine: (line: TicketLine) => void;
}) {
  const { changes } = line;
  const set = (part: Partial<TicketLine["changes"]>) =>
    setLine({ ...line, changes: { ...changes, ...part } });
  const now = settledOf(row, line);
  return (
    <div className="delivery-controls">
      {can.id3 && (
        <Field
          label="ID3 version"
          departs={changes.id3_version !== null}
          back={() => set({ id3_version: null })}
        >
          {(id) => (
            <Select
              id={id}
              size="small"
              value={now.id3_version}
              options={[
                { value: "2.4" as const, label: "2.4" },
                { value: "2.3" as const, label: "2.3 (older players)" },
              ]}
              onChange={(id3_version) => set({ id3_version })}
            />
          )}
        </Field>
      )}
      {can.gain_tags !== "" && (
        <Field
          label="Loudness tags"
          departs={changes.gain_tags !== null}
          back={() => set({ gain_tags: null })}
        >
          {(id) => (
            <span>
              <Switch
                id={id}
                size="small"
                checked={now.gain_tags}
                onChange={(gain_tags) => set({ gain_tags })}
              />{" "}
              <small>{can.gain_tags === "r128" ? "R128 gain" : "ReplayGain 2.0"}</small>
            </span>
          )}
        </Field>
      )}
      {row.tags.loop_note && <small className="tag-note">{row.tags.loop_note}</small>}
      {can.markers === "" ? (
        row.tags.markers_note && <small className="tag-note">{row.tags.markers_note}</small>
      ) : (
        <Field label="Markers" departs={changes.markers !== null} back={() => set({ markers: null })}>
          {(id) => (
            <span>
              <Switch id={id} size="small" checked={now.markers} onChange={(markers) => set({ markers })} />{" "}
              <small>
                {row.tags.markers} in this file{row.tags.loop ? ", loop points" : ""}
              </small>
            </span>
          )}
        </Field>
      )}
    </div>
  );
}

function SheetFiles({ mix }: { mix: Mix }) {
  const session = useSession();
  const chooser = useRef<HTMLInputElement>(null);
  const read = useMutation({
    mutationFn: async (file: File) => {
      const sheets = await api.readSheets(await file.text());
      const named = sheets.find((one) => one.mix.toLowerCase() === mix.title.toLowerCase());
      const found = named ?? (sheets.length === 1 ? sheets[0] : undefined);
      if (!found) throw new Error(`${file.name}: ${sheets.length} sheets, none named ${mix.title}.`);
      return found;
    },
    onSuccess: (sheet) => session.set({ ...session.bench(), tags: sheet.values }),
  });
  return (
    <div className="sheet-files">
      <Button size="small" onClick={() => chooser.current?.click()} loading={read.isPending}>
        Import
      </Button>
      <SetOutFile mix={mix} href={sheetsUrl("csv", mix.id)}>
        CSV
      </SetOutFile>
      <SetOutFile mix={mix} href={sheetsUrl("json", mix.id)}>
        JSON
      </SetOutFile>
      {read.error && (
        <p className="field-error" role="alert">
          {read.error.message}
        </p>
      )}
      <input
        ref={chooser}
        type="file"
        hidden
        accept=".csv,.json"
        data-testid="sheet-chooser"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) read.mutate(file);
          event.target.value = "";
        }}
      />
    </div>
  );
}
