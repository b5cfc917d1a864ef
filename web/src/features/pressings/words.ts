import type { FileLine, Pressing, RecordRow } from "../../api/client";
import { counted, seconds } from "../../shared/text/format";
import { FILES, PRESSINGS } from "../../shared/text/words";

/** Where a file is, in a few words; how fast it is made belongs to being made. */
export function stage(line: FileLine, held: boolean): string {
  if (held && !["named", "left-out", "failed", "cancelled"].includes(line.state)) return "paused";
  const speed = line.state === "making" && line.times_realtime ? line.times_realtime : 0;
  return speed ? `${FILES[line.state]}, ${times(speed)}` : FILES[line.state];
}

export function times(speed: number): string {
  return `${speed < 10 ? speed.toFixed(1) : Math.round(speed)}× real time`;
}

export function files(count: number): string {
  return counted(count, "file");
}

/** The state of a queued pressing; an interrupted one has its own sentence. */
export function waiting(pressing: Pressing): string {
  if (pressing.state === "interrupted") return pressing.error ?? "Interrupted.";
  const work = pressing.waits_seconds;
  if (!work) return "queued";
  return `queued, ${work < 0.95 ? "" : "about "}${seconds(work)}`;
}

/** Error of the predicted time left, in words. */
export function offBy(share: number | null): string {
  return share === null ? "" : `estimates within ${Math.max(1, Math.round(share * 100))} %`;
}

/** What a line of the record says beside its verdict, where that is not plain from it. */
export function remark(row: RecordRow): string {
  if (row.state !== "done") return PRESSINGS[row.state];
  const again = row.again_of === null ? "" : `repeat of no. ${row.again_of}`;
  const failed = row.failed_count ? `${row.failed_count} of ${row.file_count} files failed` : "";
  return [failed, again].filter(Boolean).join("; ");
}

/** The number of checked files that are unchanged; null before the first check. */
export function asPressed(pressing: Pressing): { same: number; of: number; at: string } | null {
  const looked = pressing.files.filter((file) => file.found_at);
  if (!looked.length) return null;
  const same = looked.filter((file) => file.found === "as-pressed" || file.found === "moved").length;
  const at = looked.map((file) => file.found_at ?? "").sort()[0] ?? "";
  return { same, of: looked.length, at };
}
