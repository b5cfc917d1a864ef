import { useQuery } from "@tanstack/react-query";
import { Select } from "antd";
import { Link, useNavigate, useParams } from "react-router";
import { api } from "../../api/client";
import { Empty } from "../../shared/Empty";
import { MadeFiles } from "../../shared/files/MadeFiles";
import { SheetLinks } from "../../shared/SheetLinks";
import { SendFiles } from "../../shared/sending/SendFiles";
import { counted } from "../../shared/text/format";
import { became, when } from "../../shared/text/pressings";
import type { Mode } from "../../shared/theme";
import { ProofRoom } from "./ProofRoom";

/** The proof of a pressing, the newest where none is named. */
export function ProofPage({ mode }: { mode: Mode }) {
  const { pressingId } = useParams();
  const navigate = useNavigate();
  const record = useQuery({ queryKey: ["pressings", "newest"], queryFn: () => api.record("", "", null) });
  const all = record.data?.rows ?? [];
  const wanted = pressingId ? Number(pressingId) : all[0]?.id;
  const pressing = useQuery({
    queryKey: ["pressings", wanted],
    queryFn: () => api.pressing(wanted ?? 0),
    enabled: wanted !== undefined,
    retry: false,
  });
  const shown = pressing.data;
  const count = shown?.files.length ?? 0;
  const options = all.map((row) => ({
    value: row.id,
    label: `${row.mix_title} · pressing ${row.id} · ${became(row.state, row.failed_count, row.file_count)} · ${when(row.made_at)}`,
  }));
  if (shown && !all.some((row) => row.id === shown.id)) {
    options.push({ value: shown.id, label: `${shown.mix_title} · pressing ${shown.id}` });
  }
  return (
    <div className="proof">
      <header className="page-head">
        <h1>Proof</h1>
        {options.length > 0 && (
          <Select
            aria-label="Pressing"
            className="which-pressing"
            value={wanted ?? null}
            options={options}
            showSearch={{ optionFilterProp: "label" }}
            onChange={(id) => navigate(`/proof/${id}`)}
          />
        )}
        <p>{shown ? counted(count, "file") : "Every pressed file is read back, measured and checked."}</p>
        {shown && count > 0 && <SheetLinks pressing={shown.id} />}
        {shown && count > 0 && <MadeFiles pressing={shown} />}
        {shown && count > 0 && <SendFiles pressing={shown} />}
        {(record.data?.count ?? 0) > all.length && <Link to="/press">All pressings</Link>}
      </header>
      {record.isSuccess && !all.length && (
        <Empty title="No pressings yet" to="/shelf" act="Open Shelf">
          Choose a mix on the Shelf and press it.
        </Empty>
      )}
      {pressing.error && <p role="alert">{pressing.error.message}</p>}
      {shown && <ProofRoom key={shown.id} pressing={shown} mode={mode} />}
    </div>
  );
}
