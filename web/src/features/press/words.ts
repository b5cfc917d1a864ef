import type { FileLine, Pressing, RecordRow } from "../../api/client";
import { seconds } from "../../shared/format";
import { STATES } from "../../shared/pressings";

const STAGES: Record<FileLine["state"], string> = {
  waiting: "queued",
  settling: "measuring level",
  making: "rendering",
  "reading-back": "verifying",
  naming: "saving",
  named: "named",
  "left-out": "blocked",
  failed: "failed",
  cancelled: "cancelled",
};

/** Where a file is, in a few words; how fast it is made belongs to being made. */
export function stage(line: FileLine, held: boolean): string {
  if (held && !["named", "left-out", "failed", "cancelled"].includes(line.state)) return "held";
  const speed = line.state === "making" && line.times_realtime ? line.times_realtime : 0;
  return speed ? `${STAGES[line.state]}, ${times(speed)}` : STAGES[line.state];
}

export function times(speed: number): string {
  return `${speed < 10 ? speed.toFixed(1) : Math.round(speed)} times real time`;
}

export function files(count: number): string {
  return `${count} ${count === 1 ? "file" : "files"}`;
}

/** How a pressing that waits stands; what was cut off says so in its own sentence. */
export function waiting(pressing: Pressing): string {
  if (pressing.state === "cut-off") return pressing.error ?? "Interrupted.";
  const work = pressing.waits_seconds;
  if (!work) return "waits";
  return `waits: ${work < 0.95 ? "" : "about "}${seconds(work)} of work`;
}

/** How far off the time left was told, for a person. */
export function offBy(share: number | null): string {
  return share === null
    ? ""
    : `time left was told to within ${Math.max(1, Math.round(share * 100))} % lately`;
}

/** What a line of the record says beside its verdict, where that is not plain from it. */
export function remark(row: RecordRow): string {
  if (row.state !== "done") return STATES[row.state];
  const again = row.again_of === null ? "" : `again, as No. ${row.again_of}`;
  const failed = row.failed_count ? `${row.failed_count} of ${row.file_count} files failed` : "";
  return [failed, again].filter(Boolean).join("; ");
}

/** How many of the files that were looked for are as they were pressed; null before anybody looked. */
export function asPressed(pressing: Pressing): { same: number; of: number; at: string } | null {
  const looked = pressing.files.filter((file) => file.found_at);
  if (!looked.length) return null;
  const same = looked.filter((file) => file.found === "as-pressed" || file.found === "moved").length;
  const at = looked.map((file) => file.found_at ?? "").sort()[0] ?? "";
  return { same, of: looked.length, at };
}
