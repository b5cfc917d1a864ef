import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input, InputNumber, Popconfirm, Select } from "antd";
import { type ReactNode, useRef, useState } from "react";
import { api, type Brief, briefFileUrl, type LevelWish } from "../../api/client";
import { Figures } from "../../shared/Figures";
import { bytes, level, rate } from "../../shared/format";

const KIND_WORDS: Record<LevelWish["kind"], string> = {
  leave: "left alone",
  peak: "sample peak",
  "true-peak": "true peak",
  loudness: "loudness",
};
const UNITS = { leave: "", peak: "dBFS", "true-peak": "dBTP", loudness: "LUFS" } as const;

const DEPTH_WORDS: Record<string, string> = {
  keep: "as the mix has it",
  u8: "8 bits",
  s16: "16 bits",
  s20: "20 bits",
  s24: "24 bits",
  s32: "32 bits",
  f32: "32-bit float",
  f64: "64-bit float",
};

function levelWords(wish: LevelWish): string {
  if (wish.kind === "leave") return KIND_WORDS.leave;
  const ceiling = wish.kind === "loudness" ? ` under ${level(wish.ceiling_dbtp, "dBTP")}` : "";
  const down = wish.only_down ? ", only ever down" : "";
  return `${KIND_WORDS[wish.kind]} ${level(wish.target, UNITS[wish.kind])}${ceiling}${down}`;
}

function requirements(brief: Brief): [string, string][] {
  const { require } = brief;
  const lines: [string, string][] = [];
  if (require.containers.length) lines.push(["Containers", require.containers.join(", ").toUpperCase()]);
  if (require.encodings.length)
    lines.push(["Depths", require.encodings.map((one) => DEPTH_WORDS[one]).join(", ")]);
  if (require.rates_hz.length) lines.push(["Rates", require.rates_hz.map(rate).join(", ")]);
  if (require.channels.length) lines.push(["Channels", require.channels.join(" or ")]);
  if (require.sample_peak_max_dbfs !== null)
    lines.push(["Sample peak up to", level(require.sample_peak_max_dbfs)]);
  if (require.true_peak_max_dbtp !== null)
    lines.push(["True peak up to", level(require.true_peak_max_dbtp, "dBTP")]);
  if (require.loudness_lufs)
    lines.push(["Loudness", require.loudness_lufs.map((one) => level(one, "LUFS")).join(" to ")]);
  if (require.bytes_max !== null) lines.push(["Size up to", bytes(require.bytes_max)]);
  if (brief.tags.length) lines.push(["Tags needed", brief.tags.join(", ")]);
  return lines;
}

function preferences({ prefer, label_pattern, drop_off }: Brief): [string, string][] {
  const lines: [string, string][] = [
    ["Container", prefer.container.toUpperCase()],
    ["Depth", DEPTH_WORDS[prefer.encoding] ?? prefer.encoding],
    ["Rate", prefer.rate_hz === "keep" ? "as the mix has it" : rate(prefer.rate_hz)],
    ["Channels", prefer.channels === "keep" ? "as the mix has them" : prefer.channels],
    ["Level", levelWords(prefer.level)],
    ["Finishing chain", prefer.finish ? "taken" : "left out"],
    ["File name", label_pattern],
  ];
  if (drop_off) lines.push(["Sub-folder", drop_off]);
  return lines;
}

export function BriefsPage() {
  const queries = useQueryClient();
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const [chosenId, setChosenId] = useState("audio-cd");
  const chooser = useRef<HTMLInputElement>(null);
  const settled = async (brief?: Brief) => {
    await queries.invalidateQueries({ queryKey: ["briefs"] });
    await queries.invalidateQueries({ queryKey: ["ticket"] });
    setChosenId(brief?.id ?? "audio-cd");
  };
  const copy = useMutation({ mutationFn: api.copyBrief, onSuccess: settled });
  const remove = useMutation({ mutationFn: api.removeBrief, onSuccess: () => settled() });
  const keep = useMutation({ mutationFn: api.keepBrief, onSuccess: settled });
  const bring = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text();
      let body: unknown;
      try {
        body = JSON.parse(text);
      } catch {
        throw new Error(`${file.name} is not a brief: it is not JSON.`);
      }
      return api.keepBrief(body);
    },
    onSuccess: settled,
  });
  const brief = briefs.data?.find((one) => one.id === chosenId);
  const problem = copy.error ?? remove.error ?? keep.error ?? bring.error ?? briefs.error;
  return (
    <div className="briefs">
      <header className="page-head">
        <h1>Briefs</h1>
        <p>What each recipient asks for. Copy one to make your own.</p>
        <Button loading={bring.isPending} onClick={() => chooser.current?.click()}>
          Import a brief
        </Button>
        <input
          ref={chooser}
          type="file"
          hidden
          accept=".json"
          data-testid="brief-chooser"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) bring.mutate(file);
            event.target.value = "";
          }}
        />
      </header>
      {problem && (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      )}
      <div className="briefs-room">
        <nav className="briefs-list" aria-label="Briefs">
          {briefs.data?.map((one) => (
            <button
              key={one.id}
              type="button"
              aria-pressed={one.id === chosenId}
              onClick={() => setChosenId(one.id)}
            >
              <b>{one.title}</b>
              {one.own && <small>your own</small>}
            </button>
          ))}
        </nav>
        {brief && (
          <article className="sheet brief" aria-label={brief.title}>
            <header>
              <div>
                <h2>{brief.title}</h2>
                <p>{brief.sentence}</p>
                <p className="quiet">{brief.why}</p>
              </div>
              <span className="brief-acts">
                <Button loading={copy.isPending} onClick={() => copy.mutate(brief.id)}>
                  Copy
                </Button>
                <Button href={briefFileUrl(brief.id)} download>
                  Export
                </Button>
                {brief.own && (
                  <Popconfirm
                    title={`Take ${brief.title} away?`}
                    okText="Take away"
                    cancelText="Keep"
                    onConfirm={() => remove.mutate(brief.id)}
                  >
                    <Button danger>Take away</Button>
                  </Popconfirm>
                )}
              </span>
            </header>
            {brief.own ? (
              <BriefForm
                key={JSON.stringify(brief)}
                brief={brief}
                saving={keep.isPending}
                save={(next) => keep.mutate(next)}
              />
            ) : (
              <div className="brief-columns">
                <Lines title="Allowed" lines={requirements(brief)} empty="Everything is allowed." />
                <Lines title="Made by default" lines={preferences(brief)} empty="" />
              </div>
            )}
          </article>
        )}
      </div>
    </div>
  );
}

function Lines({ title, lines, empty }: { title: string; lines: [string, string][]; empty: string }) {
  return (
    <section>
      <h3>{title}</h3>
      {!lines.length && <p className="quiet">{empty}</p>}
      <Figures lines={lines} />
    </section>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is the child
    <label className="brief-field">
      <span>{label}</span>
      {children}
    </label>
  );
}

const choices = (values: readonly string[], words: Record<string, string> = {}) =>
  values.map((value) => ({ value, label: words[value] ?? value }));

/** A brief of one's own, to be changed; requirements that are not shown stay as they are. */
function BriefForm({ brief, saving, save }: { brief: Brief; saving: boolean; save: (brief: Brief) => void }) {
  const [now, setNow] = useState(brief);
  const set = (part: Partial<Brief>) => setNow({ ...now, ...part });
  const prefer = (part: Partial<Brief["prefer"]>) => set({ prefer: { ...now.prefer, ...part } });
  const require = (part: Partial<Brief["require"]>) => set({ require: { ...now.require, ...part } });
  const wish = now.prefer.level;
  const changed = JSON.stringify(now) !== JSON.stringify(brief);
  return (
    <form
      className="brief-form"
      onSubmit={(event) => {
        event.preventDefault();
        save(now);
      }}
    >
      <Row label="Title">
        <Input value={now.title} maxLength={80} onChange={(event) => set({ title: event.target.value })} />
      </Row>
      <Row label="In one sentence">
        <Input value={now.sentence} onChange={(event) => set({ sentence: event.target.value })} />
      </Row>
      <Row label="Why">
        <Input value={now.why} onChange={(event) => set({ why: event.target.value })} />
      </Row>
      <Row label="Container">
        <Select
          aria-label="Container of the brief"
          value={now.prefer.container}
          options={[
            { value: "wav" as const, label: "WAV" },
            { value: "flac" as const, label: "FLAC" },
          ]}
          onChange={(container) => prefer({ container })}
        />
      </Row>
      <Row label="Depth">
        <Select
          aria-label="Depth of the brief"
          value={now.prefer.encoding as string}
          options={choices(Object.keys(DEPTH_WORDS), DEPTH_WORDS)}
          onChange={(encoding) => prefer({ encoding: encoding as Brief["prefer"]["encoding"] })}
        />
      </Row>
      <Row label="Rate">
        <Select
          aria-label="Rate of the brief"
          value={String(now.prefer.rate_hz)}
          options={choices(["keep", "22050", "44100", "48000", "88200", "96000", "192000"], {
            keep: "as the mix has it",
          })}
          onChange={(text) => prefer({ rate_hz: text === "keep" ? "keep" : Number(text) })}
        />
      </Row>
      <Row label="Level">
        <Select
          aria-label="Level of the brief"
          value={wish.kind}
          options={choices(["leave", "peak", "true-peak", "loudness"], KIND_WORDS)}
          onChange={(kind) => prefer({ level: { ...wish, kind: kind as LevelWish["kind"] } })}
        />
        {wish.kind !== "leave" && (
          <InputNumber
            aria-label="Target of the brief"
            min={-70}
            max={0}
            value={wish.target}
            suffix={UNITS[wish.kind]}
            onChange={(target) => target !== null && prefer({ level: { ...wish, target } })}
          />
        )}
      </Row>
      <Row label="True peak up to">
        <InputNumber
          min={-20}
          max={6}
          value={now.require.true_peak_max_dbtp}
          suffix="dBTP"
          placeholder="any"
          onChange={(true_peak_max_dbtp) => require({ true_peak_max_dbtp })}
        />
      </Row>
      <Row label="Size up to">
        <InputNumber
          min={0.1}
          value={now.require.bytes_max === null ? null : now.require.bytes_max / 1e6}
          suffix="MB"
          placeholder="any"
          onChange={(mb) => require({ bytes_max: mb === null ? null : Math.round(mb * 1e6) })}
        />
      </Row>
      <Row label="File name">
        <Input value={now.label_pattern} onChange={(event) => set({ label_pattern: event.target.value })} />
      </Row>
      <Row label="Sub-folder">
        <Input value={now.drop_off} onChange={(event) => set({ drop_off: event.target.value })} />
      </Row>
      <Row label="Tags needed">
        <Input
          value={now.tags.join(", ")}
          onChange={(event) =>
            set({
              tags: event.target.value
                .split(",")
                .map((one) => one.trim())
                .filter(Boolean),
            })
          }
        />
      </Row>
      <Button type="primary" htmlType="submit" disabled={!changed} loading={saving}>
        Save
      </Button>
    </form>
  );
}
