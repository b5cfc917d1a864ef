import type { DropOff, Parcel } from "../../api/client";
import { bytes, counted, seconds } from "../../shared/format";
import { TRANSFERS } from "../../shared/words";

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

/** So many parcels the server tells of at once: those that are not over, then the newest. */
export const MOST_SHOWN = 300;

export const GROUPS: readonly { title: string; states: readonly Parcel["state"][] }[] = [
  { title: "Needs sign-off", states: ["asks"] },
  { title: "Sending", states: ["sending"] },
  { title: "Waiting", states: ["waiting", "held"] },
  { title: "Rejected or failed", states: ["refused", "failed"] },
  { title: "Delivered", states: ["taken", "accepted"] },
  { title: "Cancelled", states: ["recalled"] },
];

/** What stands behind the state of a parcel: how far it is, when it is tried again, what was said. */
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

/** The receipt of a parcel in a few words: whatever its recipient gave for it. */
export function receipt(parcel: Parcel): string {
  const { receipt, message_id, path } = parcel.receipt as Record<string, string | undefined>;
  return receipt || message_id || path || "";
}

/** How many parcels of a drop-off are where, in words. */
export function tally(counts: Partial<Record<Parcel["state"], number>>): string {
  const told = (Object.keys(TRANSFERS) as Parcel["state"][])
    .filter((state) => counts[state])
    .map((state) => `${counts[state]} ${TRANSFERS[state]}`);
  return told.join(" · ") || "nothing sent yet";
}
