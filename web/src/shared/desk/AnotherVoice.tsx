import { useQuery } from "@tanstack/react-query";
import { Select, Tag } from "antd";
import { api, type VoiceRequest } from "../../api/client";
import { when } from "../text/pressings";

/** Any other mix of the shelf, or the files of another pressing, heard beside those that are there. */
export function AnotherVoice({
  extras,
  setExtras,
  without,
}: {
  extras: readonly VoiceRequest[];
  setExtras: (extras: VoiceRequest[]) => void;
  /** The pressing whose mix and files are there already. */
  without: { readonly pressing: number; readonly mix: number | null };
}) {
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf });
  const record = useQuery({ queryKey: ["pressings", "newest"], queryFn: () => api.record("", "", null) });
  const mixes = (shelf.data?.mixes ?? []).filter((mix) => mix.id !== without.mix);
  const rows = (record.data?.rows ?? []).filter((row) => row.id !== without.pressing && row.state === "done");
  const titleOf = (extra: VoiceRequest) =>
    extra.rung
      ? `${extra.rung.container} ${extra.rung.kbps ?? extra.rung.coding_quality}`
      : extra.pressing
        ? `${rows.find((row) => row.id === extra.pressing)?.mix_title ?? "pressing"} ${extra.pressing}, file ${(extra.number ?? 0) + 1}`
        : (mixes.find((mix) => mix.id === extra.mix_id)?.title ?? "mix");
  const add = async (value: string) => {
    const [kind, id] = value.split(":");
    const found: VoiceRequest[] =
      kind === "mix"
        ? [{ mix_id: Number(id) }]
        : (await api.pressing(Number(id))).files
            .filter((file) => file.there && file.verdict !== "stop")
            .map((file) => ({ pressing: Number(id), number: file.number }));
    const known = new Set(extras.map((one) => JSON.stringify(one)));
    setExtras([...extras, ...found.filter((one) => !known.has(JSON.stringify(one)))]);
  };
  if (!mixes.length && !rows.length) return null;
  return (
    <div className="another-voice">
      <Select
        aria-label="Add source"
        placeholder="+ Add source"
        value={null}
        showSearch={{ optionFilterProp: "label" }}
        popupMatchSelectWidth={false}
        onChange={(value: string | null) => value && void add(value)}
        options={[
          {
            label: "Mixes",
            options: mixes.map((mix) => ({ value: `mix:${mix.id}`, label: mix.title })),
          },
          {
            label: "Pressed files",
            options: rows.map((row) => ({
              value: `pressing:${row.id}`,
              label: `${row.mix_title} · pressing ${row.id} · ${when(row.made_at)}`,
            })),
          },
        ].filter((group) => group.options.length)}
      />
      {extras.map((extra) => (
        <Tag
          key={JSON.stringify(extra)}
          closable
          onClose={() => setExtras(extras.filter((one) => one !== extra))}
        >
          {titleOf(extra)}
        </Tag>
      ))}
    </div>
  );
}
