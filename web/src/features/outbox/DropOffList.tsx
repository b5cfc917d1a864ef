import { Button, Popconfirm } from "antd";
import { api, type DropOffShown } from "../../api/client";
import { useSendAction } from "../../shared/jobs/useAction";
import { VerdictMark } from "../../shared/text/Verdict";
import { KINDS, tally } from "./words";

/** The drop-offs: the answer of each to its last test, and its transfers. */
export function DropOffList({
  dropOffs,
  chosen,
  choose,
  edit,
}: {
  dropOffs: readonly DropOffShown[];
  chosen: string;
  choose: (word: string) => void;
  edit: (one: DropOffShown) => void;
}) {
  const look = useSendAction(api.lookAtDropOff);
  const remove = useSendAction(api.removeDropOff, () => choose(""));
  return (
    <ul className="drop-offs" aria-label="Drop-offs">
      {dropOffs.map((one) => {
        const { name, kind, place } = one.drop_off;
        const pressed = chosen === one.word;
        return (
          <li key={one.id} className={pressed ? "sheet drop-off drop-off-chosen" : "sheet drop-off"}>
            <button
              type="button"
              className="drop-off-name"
              aria-pressed={pressed}
              onClick={() => choose(pressed ? "" : one.word)}
            >
              <b>{name}</b>
              <small>{KINDS[kind].title}</small>
              <small className="quiet drop-off-place" title={place}>
                {place}
              </small>
            </button>
            {one.said && (
              <p className="drop-off-said">
                <VerdictMark verdict={one.said.good ? "ready" : "look"} size={13} /> {one.said.sentence}
              </p>
            )}
            <span className="drop-off-acts">
              <small className="quiet drop-off-counts">{tally(one.counts)}</small>
              <Button
                size="small"
                aria-label={`Test ${name}`}
                loading={look.isPending && look.variables === one.id}
                onClick={() => look.mutate(one.id)}
              >
                Test
              </Button>
              <Button size="small" type="text" aria-label={`Edit ${name}`} onClick={() => edit(one)}>
                Edit
              </Button>
              <Popconfirm
                title={`Delete “${name}”?`}
                description="Transfers stay in the history."
                okText="Delete"
                cancelText="Cancel"
                onConfirm={() => remove.mutate(one.id)}
              >
                <Button size="small" type="text" aria-label={`Delete ${name}`}>
                  Delete
                </Button>
              </Popconfirm>
            </span>
          </li>
        );
      })}
    </ul>
  );
}
