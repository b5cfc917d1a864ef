import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Modal, Radio, Select } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type BatchLine, type BatchRequest, type ShelfMix } from "../../../api/client";
import { setWords, useSets } from "../../../shared/sets";
import { counted } from "../../../shared/text/format";
import { useFocusBack } from "../../../shared/useFocusBack";

interface BatchDialogProps {
  mixes: readonly ShelfMix[];
  chosen: readonly ShelfMix[];
  onClose: () => void;
}

/** One ticket for all chosen mixes: a set, the ticket of one of them, or one file of the whole mix for each brief. */
export function BatchDialog({ mixes, chosen, onClose }: BatchDialogProps) {
  useFocusBack();
  const go = useNavigate();
  const { message } = App.useApp();
  const queries = useQueryClient();
  const [way, setWay] = useState<"briefs" | "set" | "like">("briefs");
  const [briefs, setBriefs] = useState<readonly string[]>(["audio-cd", "archive"]);
  const [set, setSet] = useState("");
  const sets = useSets();
  const [like, setLike] = useState(chosen[0]?.id ?? 0);
  const book = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const mix_ids = chosen.map((mix) => mix.id);
  const wish: BatchRequest =
    way === "like"
      ? { mix_ids, like, briefs: [], set: "" }
      : way === "set"
        ? { mix_ids, briefs: [], set: set || (sets.data?.[0]?.name ?? "") }
        : { mix_ids, briefs: [...briefs], set: "" };
  const plan = useQuery({ queryKey: ["batch", wish], queryFn: () => api.planBatch(wish) });
  const press = useMutation({
    mutationFn: () => api.pressBatch(wish),
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["pressings"] });
      go("/press");
    },
  });
  const apply = useMutation({
    mutationFn: () => api.setTickets(wish),
    onSuccess: (set) => {
      for (const id of mix_ids) void queries.invalidateQueries({ queryKey: ["mix", id] });
      const wrong = set.find((line) => line.refused);
      if (wrong) message.warning(`${wrong.mix_title}: ${wrong.refused}`);
      else message.success(`Ticket set on ${counted(mix_ids.length, "mix", "mixes")}.`);
      onClose();
    },
  });
  const lines = plan.data ?? [];
  const count = lines.reduce((sum, line) => sum + (line.refused ? 0 : line.files.length), 0);
  const problem = press.error ?? apply.error ?? plan.error;
  return (
    <Modal
      open
      width={720}
      title={`Press ${chosen.length === 1 ? chosen[0]?.title : counted(chosen.length, "mix", "mixes")}`}
      okText={`Press ${counted(count, "file")}`}
      okButtonProps={{ disabled: !count || plan.isFetching, loading: press.isPending }}
      cancelText="Cancel"
      onOk={() => press.mutate()}
      footer={(_, { OkBtn, CancelBtn }) => (
        <>
          <CancelBtn />
          <Button
            disabled={!count || plan.isFetching}
            loading={apply.isPending}
            title="Puts these deliveries on the bench of each mix. Nothing is pressed."
            onClick={() => apply.mutate()}
          >
            Set without pressing
          </Button>
          <OkBtn />
        </>
      )}
      onCancel={onClose}
    >
      <div className="batch">
        <Radio.Group
          className="batch-way"
          value={way}
          onChange={(event) => setWay(event.target.value)}
          options={[
            { value: "briefs", label: "Whole mixes, one file per brief" },
            { value: "set", label: "Use a saved set" },
            { value: "like", label: "Use another mix's ticket" },
          ]}
        />
        {way === "set" && (
          <Select
            aria-label="Set"
            value={wish.set ?? ""}
            onChange={setSet}
            options={(sets.data ?? []).map((one) => ({
              value: one.name,
              label: `${one.name} (${setWords(one)})`,
            }))}
          />
        )}
        {way === "briefs" && (
          <Select
            mode="multiple"
            aria-label="Briefs"
            value={[...briefs]}
            onChange={setBriefs}
            optionFilterProp="label"
            options={(book.data ?? []).map((brief) => ({ value: brief.id, label: brief.title }))}
          />
        )}
        {way === "like" && (
          <Select
            aria-label="Ticket from"
            value={like}
            onChange={setLike}
            showSearch
            optionFilterProp="label"
            options={mixes.map((mix) => ({ value: mix.id, label: mix.title }))}
          />
        )}
        {problem && (
          <p role="alert" className="over">
            {problem.message}
          </p>
        )}
        <ul className="batch-lines" aria-label="Files to press">
          {lines.map((line) => (
            <li key={line.mix_id}>
              <b>{line.mix_title}</b>
              <Outcome line={line} />
            </li>
          ))}
        </ul>
      </div>
    </Modal>
  );
}

function Outcome({ line }: { line: BatchLine }) {
  if (line.refused) return <span className="over">{line.refused}</span>;
  return <span className="quiet">{line.files.join(", ")}</span>;
}
