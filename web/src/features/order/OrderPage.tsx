import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "antd";
import { Link, Navigate, useNavigate, useParams } from "react-router";
import { api, type OrderShown, type OrderSummary } from "../../api/client";
import { Empty } from "../../shared/Empty";
import { ChooseFiles } from "../../shared/files/ChooseFiles";
import { counted } from "../../shared/text/format";
import { when } from "../../shared/text/pressings";
import { last } from "./last";
import { OrderRoom } from "./OrderRoom";
import { useOrder } from "./session";

/** One running order, or all of them where none is chosen. */
export function OrderPage() {
  const { orderId } = useParams();
  const id = orderId === undefined || orderId === "all" ? null : Number(orderId);
  const before = last.get();
  if (orderId === undefined && before !== null) return <Navigate to={`/order/${before}`} replace />;
  return id === null ? <AllOrders /> : <OneOrder key={id} id={id} />;
}

function OneOrder({ id }: { id: number }) {
  const found = useOrder(id);
  if (found.error) {
    last.set(null);
    return (
      <div className="empty">
        <p className="empty-title">Could not open the running order</p>
        <p>{found.error.message}</p>
        <Link to="/order/all">All running orders</Link>
      </div>
    );
  }
  if (!found.data) return null;
  last.set(id);
  return <OrderRoom shown={found.data} />;
}

function AllOrders() {
  const go = useNavigate();
  const queries = useQueryClient();
  const all = useQuery({ queryKey: ["orders", "all"], queryFn: api.orders });
  const open = (made: OrderShown) => {
    queries.setQueryData(["orders", made.id], made);
    go(`/order/${made.id}`);
  };
  const read = useMutation({
    mutationFn: async (file: File) => api.importOrder(await file.text()),
    onSuccess: open,
  });
  const make = useMutation({ mutationFn: () => api.makeOrder("", []), onSuccess: open });
  if (all.error) return <div className="empty">{all.error.message}</div>;
  if (!all.data) return null;
  return (
    <div className="orders">
      <header className="page-head">
        <h1>Orders</h1>
        <p>Running orders for albums, discs and batches.</p>
        <Button type="primary" loading={make.isPending} onClick={() => make.mutate()}>
          New running order
        </Button>
        <ChooseFiles
          name="order-chooser"
          accept=".json"
          choose={([file]) => file && read.mutate(file)}
          loading={read.isPending}
        >
          Import
        </ChooseFiles>
      </header>
      {(read.error ?? make.error) && (
        <p className="field-error" role="alert">
          {(read.error ?? make.error)?.message}
        </p>
      )}
      {all.data.length === 0 ? (
        <Empty title="No running order yet" to="/shelf" act="Open Shelf">
          Create one and add mixes, or select mixes on the Shelf.
        </Empty>
      ) : (
        <ul className="order-list" aria-label="Running orders">
          {all.data.map((one) => (
            <Summary key={one.id} one={one} />
          ))}
        </ul>
      )}
    </div>
  );
}

function Summary({ one }: { one: OrderSummary }) {
  return (
    <li className="sheet">
      <Link to={`/order/${one.id}`}>{one.title || "Untitled"}</Link>
      <span className="quiet">
        {counted(one.entries, "track")} · changed {when(one.changed_at)}
      </span>
    </li>
  );
}
