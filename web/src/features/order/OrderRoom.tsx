import { Button } from "antd";
import { useState } from "react";
import type { OrderShown } from "../../api/client";
import { useCommands } from "../../shared/commands/commands";
import { Empty } from "../../shared/Empty";
import { useHearing } from "./hearing";
import { moved, remedied, without } from "./model";
import { OrderFoot } from "./OrderFoot";
import { OrderHead } from "./OrderHead";
import { useChanges } from "./session";
import { JoinSide } from "./sides/JoinSide";
import { LevelSide } from "./sides/LevelSide";
import { AddMixes } from "./table/AddMixes";
import { Band } from "./table/Band";
import { EntryTable } from "./table/EntryTable";
import { WhereTo } from "./WhereTo";

/** A running order: the programme to scale, its entries, the join that is chosen, one level, and where it goes. */
export function OrderRoom({ shown }: { shown: OrderShown }) {
  const { change, undo, undoable, problem } = useChanges(shown);
  const [at, setAt] = useState(0);
  const [inFrames, setInFrames] = useState(true);
  const [adding, setAdding] = useState(false);
  const { order, entries } = shown;
  const chosen = Math.min(at, Math.max(0, entries.length - 1));
  const hearing = useHearing(shown.id, entries.length);
  const hearAll = () => (hearing.heard === null ? hearing.play(1, false) : hearing.stop());
  const move = (from: number, to: number) => {
    const next = moved(order, from, to);
    if (next !== order) {
      change(next);
      setAt(to);
    }
  };
  const remove = (which: number) => change(without(order, which));
  useCommands([
    { name: "Play all joins", key: "j", run: hearAll },
    { name: "Undo", key: "mod+z", run: undo },
    { name: "Stop", key: "Escape", run: hearing.stop },
  ]);
  // Entries that were added are in the order before the server has laid them out.
  const laid = entries.length === order.entries.length;
  return (
    <div className="order">
      <OrderHead
        shown={shown}
        inFrames={inFrames}
        setInFrames={setInFrames}
        heard={hearing.heard}
        hearAll={hearAll}
        change={change}
        undo={undo}
        undoable={undoable}
        add={() => setAdding(true)}
      />
      {(problem || hearing.problem) && (
        <p className="field-error" role="alert">
          {problem || hearing.problem}
        </p>
      )}
      <Band shown={shown} chosen={chosen} choose={setAt} />
      <div className="order-columns">
        <section className="sheet order-list-sheet">
          {entries.length === 0 ? (
            <Empty title="No entries">Add mixes, or split a long mix at its markers.</Empty>
          ) : (
            laid && (
              <EntryTable
                shown={shown}
                chosen={chosen}
                inFrames={inFrames}
                playing={hearing.heard}
                choose={setAt}
                move={move}
                remove={remove}
              />
            )
          )}
          <footer className="order-list-foot">
            <Button type="text" onClick={() => setAdding(true)}>
              + Add mixes
            </Button>
            {entries.length > 0 && (
              <Button type="text" onClick={() => remove(chosen)}>
                Remove {entries[chosen]?.title}
              </Button>
            )}
            <small>drag to reorder, Alt ↑ ↓</small>
          </footer>
        </section>
        <aside className="order-side">
          {laid && entries.length > 0 && (
            <>
              <JoinSide
                shown={shown}
                at={chosen}
                inFrames={inFrames}
                change={change}
                hear={(join) => hearing.play(join, true)}
              />
              <LevelSide shown={shown} change={change} />
            </>
          )}
          <WhereTo shown={shown} change={change} />
        </aside>
      </div>
      <OrderFoot
        shown={shown}
        choose={setAt}
        heal={(finding) => change(remedied(order, finding))}
        change={change}
      />
      {adding && <AddMixes shown={shown} change={change} close={() => setAdding(false)} />}
    </div>
  );
}
