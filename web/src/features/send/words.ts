import type { DropOff, Parcel } from "../../api/client";
import { bytes } from "../../shared/format";

export type Kind = DropOff["kind"];

export const KINDS: Record<Kind, { title: string; place: string; hint: string }> = {
  folder: { title: "Folder", place: "Folder", hint: "Full path. The disk may be offline." },
  library: {
    title: "Music library folder",
    place: "Folder",
    hint: "Files go to album artist, album, track and title, with the cover and a playlist beside.",
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
  desk: { title: "Distributor intake", place: "URL", hint: "As its distributor names it: http://host:port" },
};

export const STATES: Record<Parcel["state"], string> = {
  asks: "needs sign-off",
  held: "held",
  waiting: "waiting",
  sending: "sending",
  taken: "taken",
  accepted: "accepted",
  refused: "refused",
  recalled: "recalled",
  failed: "not sent",
};

/** So many parcels the server tells of at once: those that are not over, then the newest. */
export const MOST_SHOWN = 300;

export const GROUPS: readonly { title: string; states: readonly Parcel["state"][] }[] = [
  { title: "Needs sign-off", states: ["asks"] },
  { title: "On its way", states: ["sending"] },
  { title: "Waiting", states: ["waiting", "held"] },
  { title: "Refused or not sent", states: ["refused", "failed"] },
  { title: "Delivered", states: ["taken", "accepted"] },
  { title: "Cancelled", states: ["recalled"] },
];

/** What stands behind the state of a parcel: how far it is, when it is tried again, what was said. */
export function standing(parcel: Parcel): string {
  if (parcel.state === "sending") {
    const speed = parcel.bytes_a_second > 0 ? `, ${bytes(parcel.bytes_a_second)} a second` : "";
    return parcel.done_bytes > 0 ? `${bytes(parcel.done_bytes)} of ${bytes(parcel.bytes)}${speed}` : "begins";
  }
  if (parcel.state === "waiting") {
    const again = parcel.attempts > 0 ? `${tries(parcel.attempts)}. ${parcel.sentence} ` : "";
    const wait = parcel.next_try_in_s ?? 0;
    return `${again}${wait > 1 ? `Tried again in ${pause(wait)}.` : "Next."}`;
  }
  return parcel.sentence;
}

const tries = (count: number) => (count === 1 ? "Tried once" : `Tried ${count} times`);

export function pause(seconds: number): string {
  if (seconds < 90) return `${Math.ceil(seconds)} s`;
  return seconds < 5400 ? `${Math.round(seconds / 60)} min` : `${Math.round(seconds / 3600)} h`;
}

/** The receipt of a parcel in a few words: whatever its recipient gave for it. */
export function receipt(parcel: Parcel): string {
  const { receipt, message_id, path } = parcel.receipt as Record<string, string | undefined>;
  return receipt || message_id || path || "";
}

/** How many parcels of a drop-off are where, in words. */
export function counted(counts: Partial<Record<Parcel["state"], number>>): string {
  const told = (Object.keys(STATES) as Parcel["state"][])
    .filter((state) => counts[state])
    .map((state) => `${counts[state]} ${state === "asks" ? "to accept" : STATES[state]}`);
  return told.join(" · ") || "nothing sent yet";
}
