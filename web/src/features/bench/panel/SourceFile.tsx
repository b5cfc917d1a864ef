import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Select } from "antd";
import { api, type Mix } from "../../../api/client";
import { Figures } from "../../../shared/text/Figures";
import { counted } from "../../../shared/text/format";

const WAIT_MS = 200;

async function untilRead(id: string): Promise<void> {
  for (;;) {
    const arrival = await api.arrival(id);
    if (arrival.sentence) throw new Error(arrival.sentence);
    if (arrival.state === "done") return;
    await new Promise((wake) => setTimeout(wake, WAIT_MS));
  }
}

/** Which channels of a file with more than two make the mix; it is measured again. */
export function DownmixChoice({ mix }: { mix: Mix }) {
  const queries = useQueryClient();
  const choose = useMutation({
    mutationFn: async (downmix: string) => untilRead((await api.setDownmix(mix.id, downmix)).id),
    onSuccess: () => queries.invalidateQueries(),
  });
  const pairs = Array.from({ length: mix.file_channels - 1 }, (_, at) => `${at + 1}+${at + 2}`);
  const single = Array.from({ length: mix.file_channels }, (_, at) => `${at + 1}`);
  const fold = { value: "bs775", label: `Downmixed as ${mix.fold_order} (ITU-R BS.775)` };
  return (
    <div className="downmix">
      {mix.channels_asked && (
        <p role="alert">{mix.file_channels} unlabelled channels. Choose the ones to use.</p>
      )}
      <Select
        size="small"
        aria-label="Channels to use"
        value={mix.downmix}
        loading={choose.isPending}
        disabled={choose.isPending}
        onChange={(downmix) => choose.mutate(downmix)}
        options={[
          ...(mix.fold_order ? [fold] : []),
          ...pairs.map((value) => ({ value, label: `Channels ${value.replace("+", " and ")}` })),
          ...single.map((value) => ({ value, label: `Channel ${value} only` })),
        ]}
      />
      {choose.isPending && <p className="quiet">Measuring again</p>}
      {choose.error && (
        <p className="field-error" role="alert">
          {choose.error.message}
        </p>
      )}
    </div>
  );
}

const WORDS: Record<string, string> = { album_artist: "Album artist", isrc: "ISRC" };
const named = (field: string) => WORDS[field] ?? field.charAt(0).toUpperCase() + field.slice(1);

/** What the file carries besides sound. */
export function InTheFile({ mix }: { mix: Mix }) {
  const { tags, loop, time_reference: reference } = mix.embedded;
  const lines: [string, string][] = tags.map(([field, text]) => [named(field), text]);
  if (mix.embedded.markers.length) lines.push(["Markers", String(mix.embedded.markers.length)]);
  if (loop) lines.push(["Loop in the file", `${loop[0]} to ${loop[1]} samples`]);
  if (reference !== null) lines.push(["Time reference", counted(reference, "sample")]);
  if (!lines.length) return null;
  return (
    <section aria-label="Metadata in the file">
      <h3>Metadata in the file</h3>
      <Figures lines={lines} />
    </section>
  );
}
