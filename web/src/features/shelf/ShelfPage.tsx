import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { type DragEvent, useState } from "react";
import { useNavigate } from "react-router";
import { api, upload } from "../../api/client";
import { ChooseFiles } from "../../shared/ChooseFiles";
import { useUploads } from "../../shared/uploads";
import { BatchDialog } from "./BatchDialog";
import { ArrivalCard, MixCard, SendingCard } from "./cards";

function PathForm({ onArrived }: { onArrived: () => void }) {
  const [path, setPath] = useState("");
  const fetching = useMutation({
    mutationFn: api.fetchPath,
    onSuccess: () => {
      setPath("");
      onArrived();
    },
  });
  return (
    <form
      className="path-form"
      onSubmit={(event) => {
        event.preventDefault();
        if (path.trim()) fetching.mutate(path);
      }}
    >
      <label htmlFor="server-path">or give its path on this machine</label>
      <Input
        id="server-path"
        value={path}
        placeholder="/mixes/Millrace.wav"
        status={fetching.error ? "error" : ""}
        onChange={(event) => {
          setPath(event.target.value);
          fetching.reset();
        }}
      />
      <Button htmlType="submit" disabled={!path.trim()} loading={fetching.isPending}>
        Bring in
      </Button>
      {fetching.error && (
        <p className="field-error" role="alert">
          {fetching.error.message}
        </p>
      )}
    </form>
  );
}

export function ShelfPage() {
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const [pressing, setPressing] = useState(false);
  const refresh = () => queries.invalidateQueries({ queryKey: ["shelf"] });
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf });
  const go = useNavigate();
  const order = useMutation({
    mutationFn: (mixes: readonly number[]) => api.makeOrder("", mixes),
    onSuccess: (made) => {
      queries.setQueryData(["orders", made.id], made);
      go(`/order/${made.id}`);
    },
  });
  const { sending, send, dismiss } = useUploads(upload, refresh);
  const [over, setOver] = useState(false);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    send(event.dataTransfer.files);
  };
  const mixes = shelf.data?.mixes ?? [];
  const arrivals = shelf.data?.arrivals ?? [];
  const selected = mixes.filter((mix) => chosen.has(mix.id));
  const empty = shelf.isSuccess && !mixes.length && !arrivals.length && !sending.length;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping has the button and the path field beside it
    <div
      className={`shelf${over ? " shelf-over" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (event.currentTarget === event.target) setOver(false);
      }}
      onDrop={drop}
    >
      <header className="page-head">
        <h1>Shelf</h1>
        <p>Finished mixes. Drop one anywhere on this page; the file itself is never altered.</p>
      </header>
      <section className="bring-in" aria-label="Bring in a mix">
        <ChooseFiles name="file-chooser" multiple choose={send} type="primary">
          Choose a file
        </ChooseFiles>
        <PathForm onArrived={refresh} />
      </section>
      {selected.length > 0 && (
        <section className="sheet chosen-bar" aria-label="Chosen mixes">
          <span role="status">{selected.length === 1 ? "1 mix" : `${selected.length} mixes`} chosen</span>
          <Button type="primary" onClick={() => setPressing(true)}>
            Press them…
          </Button>
          <Button loading={order.isPending} onClick={() => order.mutate(selected.map((mix) => mix.id))}>
            Make a running order
          </Button>
          {order.error && <span className="over">{order.error.message}</span>}
          <Button type="text" onClick={() => setChosen(new Set(mixes.map((mix) => mix.id)))}>
            Choose all
          </Button>
          <Button type="text" onClick={() => setChosen(new Set())}>
            Choose none
          </Button>
        </section>
      )}
      {pressing && <BatchDialog mixes={mixes} chosen={selected} onClose={() => setPressing(false)} />}
      {empty && (
        <div className="empty">
          <p className="empty-title">The shelf is empty</p>
          <p>Drop a finished mix here: WAV, AIFF, CAF, FLAC, MP3 or Ogg, as long as you like.</p>
        </div>
      )}
      <ul className="cards" aria-label="Mixes">
        {mixes.map((mix) => (
          <MixCard
            key={mix.id}
            mix={mix}
            chosen={chosen.has(mix.id)}
            onChoose={(on) => setChosen((all) => withChoice(all, mix.id, on))}
            onChange={refresh}
          />
        ))}
        {arrivals.map((arrival) => (
          <ArrivalCard key={arrival.id} arrival={arrival} onChange={refresh} />
        ))}
        {sending.map((one) => (
          <SendingCard
            key={one.key}
            name={one.name}
            share={one.share}
            error={one.error}
            onDismiss={() => dismiss(one.key)}
          />
        ))}
      </ul>
    </div>
  );
}

function withChoice(all: ReadonlySet<number>, id: number, on: boolean): ReadonlySet<number> {
  const next = new Set(all);
  if (on) next.add(id);
  else next.delete(id);
  return next;
}
