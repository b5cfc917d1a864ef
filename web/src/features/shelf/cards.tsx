import { memo, type Ref } from "react";
import { Link } from "react-router";
import type { FileChange, ShelfMix } from "../../api/client";
import { channels, clock, level, rate } from "../../shared/text/format";
import { when } from "../../shared/text/pressings";
import { Thumbnail } from "../../shared/waveform/Thumbnail";
import { MixNotes } from "./MixNotes";

export interface MixProps {
  mix: ShelfMix;
  chosen: boolean;
  choose: (id: number, chosen: boolean, all: boolean) => void;
  show: (id: number, what: "versions" | "off") => void;
  change: FileChange | undefined;
  likely: string | undefined;
  /** Whether the keys are at this one: the only one that Tab leads to. */
  current: boolean;
}

/** The age of a mix's last pressing. */
export function pressedWords(mix: ShelfMix): string {
  if (!mix.pressed_at) return "never pressed";
  return `pressed ${when(mix.pressed_at)}${mix.changed_since ? "changed since last pressing" : ""}`;
}

/** Rate and depth, and how many channels it has where it is not stereo. */
export function formOf(mix: ShelfMix): string {
  const parts = [rate(mix.rate_hz), mix.depth_label];
  return [...parts, ...(mix.channels === 2 ? [] : [channels(mix.channels)])].join(" · ");
}

/** Plain elements, for many of them come and go as one scrolls. */
export function Choice({ mix, chosen, choose }: Pick<MixProps, "mix" | "chosen" | "choose">) {
  return (
    <input
      type="checkbox"
      className="choice"
      checked={chosen}
      aria-label={`Select ${mix.title}`}
      onChange={(event) => choose(mix.id, event.target.checked, (event.nativeEvent as MouseEvent).shiftKey)}
    />
  );
}

export function VersionsButton({ mix, show }: Pick<MixProps, "mix" | "show">) {
  if (mix.versions < 2) return null;
  return (
    <button
      type="button"
      className="bare versions-button"
      aria-label={`Version ${mix.version} · ${mix.versions} versions of ${mix.title}`}
      onClick={() => show(mix.id, "versions")}
    >
      Version {mix.version} · {mix.versions} versions
    </button>
  );
}

export const MixCard = memo(function MixCard(props: MixProps & { row: number; ref: Ref<HTMLLIElement> }) {
  const { mix, chosen, choose, show, change, likely, current, row, ref } = props;
  const over = mix.samples_over_full_scale > 0;
  return (
    <li ref={ref} data-index={row} data-mix={mix.id} className={`card${chosen ? " card-chosen" : ""}`}>
      <span className="card-choice">
        <Choice mix={mix} chosen={chosen} choose={choose} />
      </span>
      <Link
        to={`/bench/${mix.id}`}
        className="card-link"
        tabIndex={current ? 0 : -1}
        aria-label={`Open ${mix.title} on the Bench`}
      >
        <h2>{mix.title}</h2>
        <Thumbnail mix={mix} />
      </Link>
      <dl className="figures">
        <Figure name="Length">{clock(mix.frames, mix.rate_hz, 0)}</Figure>
        <Figure name="Format">{formOf(mix)}</Figure>
        <Figure name="Loudness">{level(mix.integrated_lufs, "LUFS")}</Figure>
        <div>
          <dt>Peak</dt>
          <dd className={over ? "over" : ""}>{level(mix.sample_peak_dbfs)}</dd>
        </div>
      </dl>
      <MixNotes mix={mix} change={change} likely={likely} />
      <div className="card-foot">
        <span className="path" title={mix.came_from}>
          {pressedWords(mix)}
          {mix.came_from && ` · ${mix.came_from}`}
        </span>
        <VersionsButton mix={mix} show={show} />
        <button
          type="button"
          className="bare"
          aria-label={`Remove ${mix.title}`}
          onClick={() => show(mix.id, "off")}
        >
          Remove
        </button>
      </div>
    </li>
  );
});

function Figure({ name, children }: { name: string; children: string }) {
  return (
    <div>
      <dt>{name}</dt>
      <dd>{children}</dd>
    </div>
  );
}
