import { useMutation } from "@tanstack/react-query";
import { App, Button, Popover, Select } from "antd";
import { api, type Mix } from "../../../api/client";
import { NameForm } from "../../../shared/forms/NameForm";
import { setWords, useSetChange, useSets } from "../../../shared/sets";
import { useBench, useSession } from "../session";

/** Saved sets of deliveries: put on this bench, saved from it, chosen for new mixes. */
export function SetChoice({ mix }: { mix: Mix }) {
  const session = useSession();
  const open = useBench((view) => view.dialog === "sets");
  return (
    <Popover
      trigger="click"
      placement="bottomRight"
      open={open}
      onOpenChange={(next) => session.show({ dialog: next ? "sets" : "none" })}
      destroyOnHidden
      title="Sets of deliveries"
      content={<Choosing mix={mix} />}
    >
      <Button size="small">Sets ▾</Button>
    </Popover>
  );
}

function Choosing({ mix }: { mix: Mix }) {
  const session = useSession();
  const { message } = App.useApp();
  const sets = useSets();
  const taken = sets.data?.map((one) => one.name.toLowerCase()) ?? [];
  const save = useSetChange((name: string) => api.saveSet(name, session.bench()));
  const remove = useSetChange(api.removeSet);
  const setDefault = useSetChange(api.setDefault);
  const use = useMutation({
    mutationFn: (name: string) => api.setOnBench(mix.id, name, session.bench()),
    onSuccess: (bench, name) => {
      session.set(bench);
      session.show({ dialog: "none" });
      message.success(`Set “${name}” applied. Undo restores the earlier deliveries.`);
    },
  });
  const problem = sets.error ?? use.error ?? remove.error ?? setDefault.error;
  return (
    <div className="set-choice">
      <ul className="pick-list" aria-label="Sets">
        {sets.data?.map((one) => (
          <li key={one.name}>
            <button type="button" title={`Use ${one.name}`} onClick={() => use.mutate(one.name)}>
              <b>{one.name}</b>
              <small>{setWords(one)}</small>
            </button>
            {one.kind === "saved" && (
              <Button
                size="small"
                type="text"
                aria-label={`Delete ${one.name}`}
                onClick={() => remove.mutate(one.name)}
              >
                Delete
              </Button>
            )}
          </li>
        ))}
      </ul>
      <NameForm
        primary
        label="Name of the set"
        placeholder="New name"
        button={(name) => (taken.includes(name.toLowerCase()) ? "Replace set" : "Save as set")}
        save={(name) => save.mutateAsync(name)}
      />
      <div className="set-default">
        <span className="quiet">New mixes open with</span>
        <Select
          size="small"
          aria-label="New mixes open with"
          value={sets.data?.find((one) => one.default)?.name ?? "Last pressed"}
          onChange={(name) => setDefault.mutate(name)}
          options={[...new Set(["Last pressed", ...(sets.data ?? []).map((one) => one.name)])].map(
            (value) => ({
              value,
            }),
          )}
        />
      </div>
      {problem && (
        <p className="field-error" role="alert">
          {problem.message}
        </p>
      )}
    </div>
  );
}
