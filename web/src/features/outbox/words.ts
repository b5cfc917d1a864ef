import type { DropOff, Parcel } from "../../api/client";
import { bytes, counted, seconds } from "../../shared/text/format";
import { TRANSFERS } from "../../shared/text/words";

export type Kind = DropOff["kind"];

export const KINDS: Record<Kind, { title: string; place: string; hint: string }> = {
  folder: { title: "Folder", place: "Folder", hint: "Full path. The disk may be offline." },
  library: {
    title: "Music library folder",
    place: "Folder",
    hint: "Files are sorted into album artist, album, track and title, with cover and playlist.",
  },
  sync: {
    title: "Synced folder",
    place: "Folder",
    hint: "A cloud-synced folder. Only complete files are moved in.",
  },
  mail: {
    title: "Mailbox",
    place: "Address and server",
    hint: "ADDRESS@HOST[:PORT], where HOST is the mail server",
  },
  desk: { title: "Distributor intake", place: "URL", hint: "Address from the distributor: http://host:port" },
};

/** Maximum number of transfers in one answer: unfinished ones, then the newest. */
export const MOST_SHOWN = 300;

export const GROUPS: readonly { title: string; states: readonly Parcel["state"][] }[] = [
  { title: "Needs sign-off", states: ["asks"] },
  { title: "Sending", states: ["sending"] },
  { title: "Waiting", states: ["waiting", "held"] },
  { title: "Rejected or failed", states: ["refused", "failed"] },
  { title: "Delivered", states: ["taken", "accepted"] },
  { title: "Cancelled", states: ["recalled"] },
];

/** Details of a transfer's state: progress, next try, answer. */
export function standing(parcel: Parcel): string {
  if (parcel.state === "sending") {
    const speed = parcel.bytes_a_second > 0 ? `, ${bytes(parcel.bytes_a_second)} /s` : "";
    return parcel.done_bytes > 0
      ? `${bytes(parcel.done_bytes)} of ${bytes(parcel.bytes)}${speed}`
      : "starting";
  }
  if (parcel.state === "waiting") {
    const again = parcel.attempts > 0 ? `${tries(parcel.attempts)}. ${parcel.sentence} ` : "";
    const wait = parcel.next_try_in_s ?? 0;
    return `${again}${wait > 1 ? `Retrying in ${seconds(wait)}` : "Next in line."}`;
  }
  return parcel.sentence;
}

const tries = (count: number) => counted(count, "attempt");

/** The recipient's receipt of a transfer in a few words. */
export function receipt(parcel: Parcel): string {
  const { receipt, message_id, path } = parcel.receipt as Record<string, string | undefined>;
  return receipt || message_id || path || "";
}

/** The number of a drop-off's transfers by state, in words. */
export function tally(counts: Partial<Record<Parcel["state"], number>>): string {
  const states = (Object.keys(TRANSFERS) as Parcel["state"][])
    .filter((state) => counts[state])
    .map((state) => `${counts[state]} ${TRANSFERS[state]}`);
  return states.join(" · ") || "nothing sent yet";
}
