import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Popconfirm } from "antd";
import { useNavigate } from "react-router";
import { ApiError, api, type ShelfMix } from "../../api/client";
import { useLastMix } from "../../shared/lastMix";
import { counted } from "../../shared/text/format";
import { useOtherVersion } from "../../shared/useChanges";

/** What can be done with all chosen mixes, by button and by key. */
export function useChosen(chosen: readonly ShelfMix[], choose: (ids: ReadonlySet<number>) => void) {
  const queries = useQueryClient();
  const go = useNavigate();
  const other = useOtherVersion();
  const ids = chosen.map((mix) => mix.id);
  const order = useMutation({
    mutationFn: () => api.makeOrder("", ids),
    onSuccess: (made) => {
      queries.setQueryData(["orders", made.id], made);
      go(`/order/${made.id}`);
    },
  });
  const pile = useMutation({
    mutationFn: () => api.pileUp(ids),
    onSuccess: (used) => {
      choose(new Set());
      other(used);
    },
  });
  const off = useMutation({
    mutationFn: async () => {
      const kept: string[] = [];
      for (const mix of chosen) {
        try {
          await api.removeMix(mix.id);
          useLastMix.getState().forget(mix.id);
        } catch (error) {
          if (error instanceof ApiError && error.code === "server.unreachable") throw error;
          kept.push((error as Error).message);
        }
      }
      if (kept.length) throw new Error(kept.join(" "));
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["shelf"] }),
    onSuccess: () => choose(new Set()),
  });
  return {
    order,
    pile,
    off,
    tag: () => go(`/tags?chosen=${ids.join(",")}`),
    problem: order.error ?? pile.error ?? off.error,
  };
}

interface ChosenBarProps {
  chosen: readonly ShelfMix[];
  acts: ReturnType<typeof useChosen>;
  press: () => void;
  chooseAll: () => void;
  chooseNone: () => void;
}

export function ChosenBar({ chosen, acts, press, chooseAll, chooseNone }: ChosenBarProps) {
  const what = counted(chosen.length, "mix", "mixes");
  return (
    <section className="sheet chosen-bar" aria-label="Selected mixes">
      <span role="status">{what} selected</span>
      <Button type="primary" onClick={press}>
        Press…
      </Button>
      <Button loading={acts.order.isPending} onClick={() => acts.order.mutate()}>
        New running order
      </Button>
      <Button onClick={acts.tag}>Tag…</Button>
      {chosen.length > 1 && (
        <Button
          loading={acts.pile.isPending}
          title="The newest becomes current and gets the first one's ranges and ticket."
          onClick={() => acts.pile.mutate()}
        >
          Group as versions
        </Button>
      )}
      <Popconfirm
        title={`Remove ${what} from the Shelf?`}
        description="Uploaded copies are deleted. Files added by path and pressed files are kept."
        okText="Remove"
        cancelText="Cancel"
        onConfirm={() => acts.off.mutate()}
      >
        <Button loading={acts.off.isPending}>Remove</Button>
      </Popconfirm>
      <span className="chosen-more">
        <Button type="text" onClick={chooseAll}>
          Select all
        </Button>
        <Button type="text" onClick={chooseNone}>
          Clear selection
        </Button>
      </span>
      {acts.problem && (
        <p className="field-error" role="alert">
          {acts.problem.message}
        </p>
      )}
    </section>
  );
}
