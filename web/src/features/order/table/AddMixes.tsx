import { useMutation, useQuery } from "@tanstack/react-query";
import { Button, Modal } from "antd";
import { useState } from "react";
import { api, type OrderEntry, type OrderShown, type RunningOrder, type ShelfMix } from "../../../api/client";
import { clock, counted } from "../../../shared/text/format";
import { useFocusBack } from "../../../shared/useFocusBack";
import { added, FRAMES_PER_SECOND } from "../model";

/** Chooses mixes from the shelf, whole, as their ranges, or cut at their markers, and adds them at the end. */
export function AddMixes({
  shown,
  change,
  close,
}: {
  shown: OrderShown;
  change: (order: RunningOrder) => void;
  close: () => void;
}) {
  useFocusBack();
  const shelf = useQuery({ queryKey: ["shelf"], queryFn: api.shelf });
  const defaults = useQuery({ queryKey: ["defaults"], queryFn: api.defaults });
  const [note, setNote] = useState("");
  const edges = defaults.data?.edges;
  const put = (entries: readonly OrderEntry[], what: string) => {
    cut.reset();
    ranges.reset();
    change(added(shown.order, entries));
    setNote(`${what} added.`);
  };
  const whole = (mix: ShelfMix, start: number, end: number, title = ""): OrderEntry[] =>
    edges
      ? [
          {
            id: "new",
            mix: mix.id,
            start_frame: start,
            end_frame: end,
            title,
            runs_on: false,
            gap_frames: 2 * FRAMES_PER_SECOND,
            edges,
            tags: [],
            indexes: [],
            disc_text: [],
            pre_emphasis: false,
            may_copy: false,
          },
        ]
      : [];
  const cut = useMutation({
    mutationFn: ({ mix, at }: { mix: ShelfMix; at: "markers" | "quiet" }) => api.proposeEntries(mix.id, at),
    onSuccess: (entries, { mix }) => put(entries, `${counted(entries.length, "part")} of ${mix.title}`),
  });
  const ranges = useMutation({
    mutationFn: (mix: ShelfMix) => api.mix(mix.id),
    onSuccess: (mix, row) => {
      const parts = mix.bench.ranges.flatMap((one) =>
        whole(row, one.start_frame, one.end_frame, one.name).map((entry) => ({ ...entry, edges: one.edges })),
      );
      put(parts, `${counted(parts.length, "range")} of ${mix.title}`);
    },
  });
  const problem = shelf.error ?? cut.error ?? ranges.error;
  return (
    <Modal
      open
      title="Add mixes"
      footer={<Button onClick={close}>Close</Button>}
      onCancel={close}
      width={760}
    >
      <p>Added at the end. Split long mixes at markers or silences.</p>
      <ul className="add-mixes" aria-label="Mixes on the Shelf">
        {(shelf.data?.mixes ?? []).map((mix) => (
          <li key={mix.id}>
            <span>
              <b>{mix.title}</b> <small>{clock(mix.frames, mix.rate_hz, 0)}</small>
            </span>
            <Button size="small" onClick={() => put(whole(mix, 0, mix.frames), mix.title)}>
              Add whole mix
            </Button>
            <Button size="small" onClick={() => ranges.mutate(mix)}>
              Add its ranges
            </Button>
            <Button size="small" onClick={() => cut.mutate({ mix, at: "markers" })}>
              Split at markers
            </Button>
            <Button size="small" onClick={() => cut.mutate({ mix, at: "quiet" })}>
              Split at silences
            </Button>
          </li>
        ))}
      </ul>
      {problem ? (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      ) : (
        <p role="status">{note}</p>
      )}
    </Modal>
  );
}
