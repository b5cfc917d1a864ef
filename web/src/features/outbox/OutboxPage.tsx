import { Button } from "antd";
import { useState } from "react";
import { Link } from "react-router";
import type { DropOffShown } from "../../api/client";
import { useCommands } from "../../shared/commands/commands";
import { Empty } from "../../shared/Empty";
import { useDropOffs, useOutbox } from "../../shared/sending/queries";
import { DropOffForm } from "./DropOffForm";
import { DropOffList } from "./DropOffList";
import { ParcelLine } from "./ParcelLine";
import { GROUPS, MOST_SHOWN } from "./words";

/** Drop-offs with their transfers: waiting, sending, delivered, accepted, rejected with the reasons. */
export function OutboxPage() {
  const book = useDropOffs();
  const outbox = useOutbox();
  const [chosen, setChosen] = useState("");
  const [editing, setEditing] = useState<DropOffShown | "new" | null>(null);
  const dropOffs = book.data?.drop_offs ?? [];
  const parcels = (outbox.data ?? []).filter((one) => !chosen || one.word === chosen);
  const problem = book.error ?? outbox.error;
  useCommands([
    { name: "New drop-off", key: "n", run: () => setEditing("new") },
    { name: "All drop-offs", key: "a", run: () => setChosen("") },
    ...dropOffs.map(({ drop_off: { name }, word }) => ({
      name: `Transfers to ${name}`,
      thing: "drop-off",
      run: () => setChosen(word),
    })),
  ]);
  return (
    <div className="send">
      <header className="page-head">
        <h1>Outbox</h1>
        <p>Drop-offs and transfers</p>
        <Button className="send-new" onClick={() => setEditing("new")}>
          New drop-off
        </Button>
      </header>
      {problem && <p role="alert">{problem.message}</p>}
      <div className="send-room">
        <div className="send-places">
          {editing && (
            <DropOffForm
              key={editing === "new" ? "new" : editing.id}
              shown={editing === "new" ? null : editing}
              secretsIn={book.data?.secrets_in ?? "file"}
              close={() => setEditing(null)}
            />
          )}
          {book.data && !dropOffs.length && !editing && (
            <p className="quiet send-empty">
              No drop-offs yet. Add a folder, music library, mailbox or distributor.
            </p>
          )}
          <DropOffList dropOffs={dropOffs} chosen={chosen} choose={setChosen} edit={setEditing} />
        </div>
        <section className="sheet send-outbox" aria-label="Transfers">
          {outbox.data && !parcels.length && (
            <Empty
              title={chosen ? "No transfers there yet" : "No transfers yet"}
              to="/proof"
              act="Open Proof"
            >
              Send from Proof, or choose a drop-off for a delivery on the Bench.
            </Empty>
          )}
          {GROUPS.map(({ title, states }) => {
            const found = parcels.filter((one) => states.includes(one.state));
            if (!found.length) return null;
            return (
              <section key={title}>
                <h2>
                  {title} <span className="quiet">{found.length}</span>
                </h2>
                <ul className="parcels" aria-label={title}>
                  {found.map((one) => (
                    <ParcelLine
                      key={one.id}
                      parcel={one}
                      alike={found.filter(
                        (other) => other.pressing === one.pressing && other.sentence === one.sentence,
                      )}
                    />
                  ))}
                </ul>
              </section>
            );
          })}
          {(outbox.data?.length ?? 0) >= MOST_SHOWN && (
            <p className="quiet">
              Newest {MOST_SHOWN} shown. Older transfers: see their pressing in{" "}
              <Link to="/press">Pressings</Link>.
            </p>
          )}
        </section>
      </div>
    </div>
  );
}
