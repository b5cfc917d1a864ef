import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import type { OrderShown } from "../../../api/client";
import { level } from "../../../shared/text/format";
import { VerdictMark } from "../../../shared/text/Verdict";
import { clockOf, frames, gapOf } from "../model";

const QUIETEST = -30;
const LOUDEST = -8;

/** The entries in their order; rows are dragged, or moved with Alt and the arrows. */
export function EntryTable({
  shown,
  chosen,
  inFrames,
  playing,
  choose,
  move,
  remove,
}: {
  shown: OrderShown;
  chosen: number;
  inFrames: boolean;
  playing: number | null;
  choose: (at: number) => void;
  move: (from: number, to: number) => void;
  remove: (at: number) => void;
}) {
  const [dragged, setDragged] = useState<number | null>(null);
  const [over, setOver] = useState<number | null>(null);
  // A row that was moved by key keeps the focus, wherever it has come to stand.
  const refocus = useRef<string | null>(null);
  const ids = shown.order.entries;
  useEffect(() => {
    const at = ids.findIndex((one) => one.id === refocus.current);
    if (at >= 0) document.getElementById(rowId(at))?.focus();
    refocus.current = null;
  }, [ids]);
  const time = inFrames ? frames : clockOf;
  const go = (to: number) => {
    if (to < 0 || to >= shown.entries.length) return;
    choose(to);
    document.getElementById(rowId(to))?.focus();
  };
  const onKey = (event: KeyboardEvent, at: number) => {
    const step = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (step && event.altKey) {
      event.preventDefault();
      refocus.current = shown.order.entries[at]?.id ?? null;
      move(at, at + step);
    } else if (step) {
      event.preventDefault();
      go(at + step);
    } else if (event.key === "Delete") {
      event.preventDefault();
      remove(at);
    }
  };
  const stop = new Set(shown.findings.filter((one) => one.verdict !== "ready").map((one) => one.entry));
  return (
    <table className="entries" aria-label="Tracks">
      <thead>
        <tr>
          <th>
            <span className="unseen">Track</span>
          </th>
          <th>Title</th>
          <th>Starts</th>
          <th>Length</th>
          <th>Gap</th>
          <th>Loudness</th>
          <th>ISRC</th>
        </tr>
      </thead>
      <tbody>
        {shown.entries.map((one, at) => {
          const entry = shown.order.entries[at];
          if (!entry) return null;
          return (
            <tr
              key={entry.id}
              id={rowId(at)}
              draggable
              tabIndex={at === chosen ? 0 : -1}
              aria-selected={at === chosen}
              className={[
                at === chosen ? "entry-chosen" : "",
                over === at && dragged !== null ? (dragged < at ? "entry-below" : "entry-above") : "",
                playing === at ? "entry-heard" : "",
              ].join(" ")}
              onClick={() => choose(at)}
              onFocus={() => at !== chosen && choose(at)}
              onKeyDown={(event) => onKey(event, at)}
              onDragStart={(event) => {
                setDragged(at);
                event.dataTransfer.effectAllowed = "move";
                event.dataTransfer.setData("text/plain", String(at));
              }}
              onDragOver={(event) => {
                if (dragged === null) return;
                event.preventDefault();
                setOver(at);
              }}
              onDragEnd={() => {
                setDragged(null);
                setOver(null);
              }}
              onDrop={(event) => {
                event.preventDefault();
                if (dragged !== null && dragged !== at) move(dragged, at);
                setDragged(null);
                setOver(null);
              }}
            >
              <td className="entry-number">{one.track || "·"}</td>
              <td>
                <b>{one.title}</b>
                {stop.has(at) && <VerdictMark verdict={worstOf(shown, at)} size={13} />}
                <small className="entry-mix">
                  {one.artist || "no artist"} · {one.range_name ? `range ${one.range_name}` : one.mix_title}
                </small>
              </td>
              <td>{time(one.start_frame)}</td>
              <td className={isShort(shown, at) ? "over" : ""}>{time(one.end_frame - one.start_frame)}</td>
              <td className={entry.runs_on && at ? "runs-on" : ""}>
                {at === 0 ? "" : entry.runs_on ? "gapless" : gapOf(one.start_frame - one.pause_frame)}
              </td>
              <td>
                <Loudness lufs={one.integrated_lufs} />
              </td>
              <td className="entry-code">{spaced(one.isrc) || <span className="quiet">none</span>}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const rowId = (at: number) => `entry-${at}`;

const isShort = (shown: OrderShown, at: number) =>
  shown.findings.some((one) => one.entry === at && one.rule === "entry_too_short");

const worstOf = (shown: OrderShown, at: number) =>
  shown.findings.some((one) => one.entry === at && one.verdict === "stop") ? "stop" : "look";

function Loudness({ lufs }: { lufs: number | null }) {
  const part = lufs === null ? 0 : Math.min(1, Math.max(0.04, (lufs - QUIETEST) / (LOUDEST - QUIETEST)));
  return (
    <span className="loudness">
      {level(lufs, "LUFS")}
      <span className="loudness-bar" style={{ width: `${100 * part}%` }} />
    </span>
  );
}

function spaced(code: string): string {
  const bare = code.replaceAll("-", "").toUpperCase();
  return bare.length === 12
    ? `${bare.slice(0, 2)}-${bare.slice(2, 5)}-${bare.slice(5, 7)}-${bare.slice(7)}`
    : code;
}
