import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button, Dropdown } from "antd";
import { Link, useNavigate } from "react-router";
import { api, type OrderShown, orderUrl, type RunningOrder } from "../../api/client";
import { Typed } from "../../shared/Typed";
import { counted } from "../../shared/text/format";
import { last } from "./last";
import { clockOf, frames, withText } from "./model";

/** What the order is called, how long it is, and what can be done with all of it. */
export function OrderHead({
  shown,
  inFrames,
  setInFrames,
  heard,
  hearAll,
  change,
  undo,
  undoable,
  add,
}: {
  shown: OrderShown;
  inFrames: boolean;
  setInFrames: (on: boolean) => void;
  heard: number | null;
  hearAll: () => void;
  change: (order: RunningOrder) => void;
  undo: () => void;
  undoable: boolean;
  add: () => void;
}) {
  const { modal } = App.useApp();
  const go = useNavigate();
  const queries = useQueryClient();
  const { order } = shown;
  const copy = useMutation({
    mutationFn: () => api.copyOrder(shown.id),
    onSuccess: (made) => {
      queries.setQueryData(["orders", made.id], made);
      go(`/order/${made.id}`);
    },
  });
  const remove = useMutation({
    mutationFn: () => api.removeOrder(shown.id),
    onSuccess: () => {
      last.set(null);
      go("/order/all");
      queries.removeQueries({ queryKey: ["orders", shown.id] });
      void queries.invalidateQueries({ queryKey: ["orders", "all"] });
    },
  });
  const barcode = order.tags.find(([name]) => name === "barcode")?.[1] ?? "";
  const count = shown.entries.length;
  return (
    <header className="page-head order-head">
      <h1>{order.title || "Running order"}</h1>
      <p>
        running order · <b>{counted(count, "track")}</b> ·{" "}
        <b>{(inFrames ? frames : clockOf)(shown.lead_out_frame)}</b>
      </p>
      <div className="order-about">
        <Typed label="Title" value={order.title} put={(text) => change({ ...order, title: text.trim() })} />
        <Typed
          label="Barcode"
          value={barcode}
          hint="13 digits"
          put={(text) => change({ ...order, tags: withText(order.tags, "barcode", text) })}
        />
      </div>
      <div className="order-deeds">
        <Button onClick={hearAll} disabled={count < 2} aria-keyshortcuts="J">
          {heard === null ? "Play joins" : "Stop"} <kbd>J</kbd>
        </Button>
        <Button onClick={add}>Add mixes</Button>
        <Button onClick={undo} disabled={!undoable}>
          Undo
        </Button>
        <Button
          type={inFrames ? "primary" : "default"}
          ghost={inFrames}
          onClick={() => setInFrames(!inFrames)}
        >
          CD frames
        </Button>
        <Dropdown
          trigger={["click"]}
          menu={{
            items: [
              { key: "all", label: <Link to="/order/all">All running orders</Link> },
              { key: "copy", label: "Duplicate", onClick: () => copy.mutate() },
              {
                key: "export",
                label: (
                  <a href={orderUrl(shown.id)} download>
                    Export
                  </a>
                ),
              },
              {
                key: "remove",
                label: "Delete",
                danger: true,
                onClick: () =>
                  void modal.confirm({
                    title: order.title ? `Delete “${order.title}”?` : "Delete this running order?",
                    content: "Pressings stay in the history.",
                    okText: "Delete",
                    cancelText: "Cancel",
                    onOk: () => remove.mutateAsync(),
                  }),
              },
            ],
          }}
        >
          <Button aria-label="More">…</Button>
        </Dropdown>
      </div>
    </header>
  );
}
