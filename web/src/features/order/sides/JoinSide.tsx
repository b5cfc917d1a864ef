import { useMutation } from "@tanstack/react-query";
import { Button, Segmented, Switch } from "antd";
import { useId } from "react";
import { api, type OrderEntry, type OrderShown, type RunningOrder } from "../../../api/client";
import { Typed } from "../../../shared/Typed";
import { Figures } from "../../../shared/text/Figures";
import { level } from "../../../shared/text/format";
import { clockOf, frames, gapOf, readGap, textOf, withEntry, withText } from "../model";
import { EntryPath } from "../table/EntryPath";
import { JoinWave } from "./JoinWave";

type DiscText = OrderEntry["disc_text"];

const DISC_TEXTS: readonly [DiscText[number][0], string][] = [
  ["songwriter", "Songwriter"],
  ["arranger", "Arranger"],
  ["message", "Message"],
];

const withDiscText = (texts: DiscText, kind: DiscText[number][0], text: string): DiscText => {
  const rest = texts.filter(([name]) => name !== kind);
  return text.trim() ? [...rest, [kind, text.trim()]] : rest;
};

/** The selected entry: the join before it, and its title and tags. */
export function JoinSide({
  shown,
  at,
  inFrames,
  change,
  hear,
}: {
  shown: OrderShown;
  at: number;
  inFrames: boolean;
  change: (order: RunningOrder) => void;
  hear: (join: number) => void;
}) {
  const row = shown.entries[at];
  const entry = shown.order.entries[at];
  const indexes = useMutation({
    mutationFn: async () => {
      const mix = await api.mix(entry?.mix ?? 0);
      const inside = mix.bench.markers
        .map((marker) => marker.frame)
        .filter((frame) => entry && frame > entry.start_frame && frame < entry.end_frame);
      if (!inside.length) throw new Error("No markers inside this track.");
      return inside;
    },
    onSuccess: (inside) => change(withEntry(shown.order, at, { indexes: inside })),
  });
  const before = shown.entries[at - 1];
  if (!row || !entry) return null;
  const time = inFrames ? frames : clockOf;
  const put = (part: Partial<OrderEntry>) => change(withEntry(shown.order, at, part));
  const tag = (field: string) => (text: string) => put({ tags: withText(entry.tags, field, text) });
  const on = entry.runs_on && at > 0;
  return (
    <section className="sheet join" aria-label={`Track ${row.track}`}>
      <p className="quiet">
        {row.track ? `Track ${row.track}` : "Hidden before track 1"}
        {before && " · join before it"}
      </p>
      {before && (
        <>
          <h2>
            {on ? `Gapless after ${before.title}` : `Gap of ${gapOf(entry.gap_frames)} after ${before.title}`}
          </h2>
          <p>
            {on
              ? `Gapless: split from one continuous render${shown.order.on_cd_frames ? ", at a CD frame" : ""}.`
              : "Silence before this track (pregap on a disc)."}
          </p>
          {on && <EntryPath order={shown} at={at} />}
          <JoinWave order={shown.id} join={at} stamp={shown.order} names={[before.title, row.title]} />
          <div className="join-deeds">
            <Segmented
              size="small"
              aria-label="Join before this track"
              value={on ? "on" : "gap"}
              options={[
                { value: "gap", label: "Gap" },
                { value: "on", label: "Gapless" },
              ]}
              onChange={(value) => put({ runs_on: value === "on" })}
            />
            <Button size="small" onClick={() => hear(at)}>
              Play join
            </Button>
          </div>
        </>
      )}
      {before && !on && (
        <Typed
          label="Gap before"
          value={frames(entry.gap_frames)}
          hint="Seconds, m:ss or m:ss:ff"
          read={(text) => {
            const gap = readGap(text);
            if (gap === null) return `${text} is not a gap. Use 2 s, 0:02 or 0:02:00.`;
            put({ gap_frames: gap });
            return "";
          }}
        />
      )}
      <Typed label="Title" value={entry.title || row.title} put={(text) => put({ title: text.trim() })} />
      <Typed label="Artist" value={row.artist} put={tag("artist")} />
      <Typed label="ISRC" value={row.isrc} hint="QZ-WLT-26-00001" put={tag("isrc")} />
      <Typed label="Composer" value={textOf(entry, "composer")} hint="Same as mix" put={tag("composer")} />
      {(["fade_in_s", "fade_out_s"] as const).map((name) => (
        <Typed
          key={name}
          label={name === "fade_in_s" ? "Fade in" : "Fade out"}
          value={`${entry.edges[name]} s`}
          read={(text) => {
            const seconds = Number(text.replace(/s$/, "").replace(",", ".").trim());
            if (!(seconds >= 0 && seconds <= 60)) return `${text} is not a fade. Use 0 to 60 s.`;
            put({ edges: { ...entry.edges, [name]: seconds } });
            return "";
          }}
        />
      ))}
      <details className="join-more">
        <summary>More disc options</summary>
        {DISC_TEXTS.map(([kind, label]) => (
          <Typed
            key={kind}
            label={label}
            value={entry.disc_text.find(([name]) => name === kind)?.[1] ?? ""}
            put={(text) => put({ disc_text: withDiscText(entry.disc_text, kind, text) })}
          />
        ))}
        <Button size="small" onClick={() => indexes.mutate()} loading={indexes.isPending}>
          Set indexes from markers
        </Button>
        {entry.indexes.length > 0 && (
          <Button size="small" type="text" onClick={() => put({ indexes: [] })}>
            None
          </Button>
        )}
        {indexes.error && (
          <p className="field-error" role="alert">
            {indexes.error.message}
          </p>
        )}
      </details>
      <Figures
        lines={[
          ["Starts at", time(row.start_frame)],
          ["Length", time(row.end_frame - row.start_frame)],
          ["Loudness", level(row.integrated_lufs, "LUFS")],
          ["True peak", level(row.true_peak_dbtp, "dBTP")],
          ...(row.gain_db === 0 ? [] : [["Gain", `≈ ${level(row.gain_db, "dB")}`] as const]),
          ...(entry.indexes.length ? [["Further indexes", String(entry.indexes.length)] as const] : []),
        ]}
      />
      <div className="join-flags">
        <Flag label="Copy permitted" on={entry.may_copy} set={(may_copy) => put({ may_copy })} />
        <Flag label="Pre-emphasis" on={entry.pre_emphasis} set={(pre_emphasis) => put({ pre_emphasis })} />
        {at === 0 && shown.entries.length > 1 && (
          <Flag
            label="Hidden before track 1"
            on={shown.order.hidden_first}
            set={(hidden_first) => change({ ...shown.order, hidden_first })}
          />
        )}
      </div>
    </section>
  );
}

function Flag({ label, on, set }: { label: string; on: boolean; set: (on: boolean) => void }) {
  const id = useId();
  return (
    <label htmlFor={id}>
      <Switch id={id} size="small" checked={on} onChange={set} /> {label}
    </label>
  );
}
