import { Button, Input, InputNumber, Select } from "antd";
import { useId, useState } from "react";
import { api, type DropOff, type DropOffShown } from "../../api/client";
import { useSendAction } from "../../shared/jobs/useAction";

import { KINDS, type Kind } from "./words";

const NEW: DropOff = {
  name: "",
  kind: "folder",
  place: "",
  sub_folder: "",
  sender: "",
  subject: "{title} by {artist}",
  text: "{title} by {artist} is attached: {format}, {rate}, {length}.\n\nSHA-256 {sha256}\n",
  limit_bytes: 0,
  user: "",
};

/** A new drop-off, or changes of one. Its secret is written, and never shown again. */
export function DropOffForm({
  shown,
  secretsIn,
  close,
}: {
  shown: DropOffShown | null;
  secretsIn: string;
  close: () => void;
}) {
  const [now, setNow] = useState<DropOff>(shown?.drop_off ?? NEW);
  const [secret, setSecret] = useState<string | null>(null);
  const ids = useId();
  const set = (part: Partial<DropOff>) => setNow({ ...now, ...part });
  const keep = useSendAction(
    () => api.keepDropOff(shown?.id ?? null, now, secret),
    () => close(),
  );
  const kind = KINDS[now.kind];
  const folder = now.kind === "folder" || now.kind === "sync";
  const field = (name: string, label: string, control: (id: string) => React.ReactNode, hint = "") => (
    <div className="drop-off-field">
      <label htmlFor={`${ids}-${name}`}>{label}</label>
      {control(`${ids}-${name}`)}
      {hint && <small className="quiet">{hint}</small>}
    </div>
  );
  return (
    <form
      className="sheet drop-off-form"
      aria-label={shown ? `Edit ${shown.drop_off.name}` : "New drop-off"}
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate(undefined as never);
      }}
    >
      <h2>{shown ? shown.drop_off.name : "New drop-off"}</h2>
      {field("kind", "Type", (id) => (
        <Select<Kind>
          id={id}
          value={now.kind}
          disabled={shown !== null}
          options={(Object.keys(KINDS) as Kind[]).map((one) => ({ value: one, label: KINDS[one].title }))}
          onChange={(next) => set({ kind: next })}
        />
      ))}
      {field("name", "Name", (id) => (
        <Input
          id={id}
          value={now.name}
          maxLength={80}
          onChange={(event) => set({ name: event.target.value })}
        />
      ))}
      {field(
        "place",
        kind.place,
        (id) => (
          <Input
            id={id}
            value={now.place}
            maxLength={1000}
            onChange={(event) => set({ place: event.target.value })}
          />
        ),
        kind.hint,
      )}
      {folder &&
        field(
          "sub",
          "Sub-folders",
          (id) => (
            <Input
              id={id}
              value={now.sub_folder}
              placeholder="none"
              maxLength={300}
              onChange={(event) => set({ sub_folder: event.target.value })}
            />
          ),
          "Label pattern, for example {artist}/{album}",
        )}
      {now.kind === "mail" && (
        <>
          {field("sender", "From", (id) => (
            <Input
              id={id}
              value={now.sender}
              placeholder="ripe-press at the recipient's host"
              onChange={(event) => set({ sender: event.target.value })}
            />
          ))}
          {field("subject", "Subject", (id) => (
            <Input id={id} value={now.subject} onChange={(event) => set({ subject: event.target.value })} />
          ))}
          {field(
            "text",
            "Text",
            (id) => (
              <Input.TextArea
                id={id}
                value={now.text}
                autoSize={{ minRows: 3, maxRows: 8 }}
                onChange={(event) => set({ text: event.target.value })}
              />
            ),
            "Subject and text are label patterns, with {sha256} in addition.",
          )}
          {field(
            "limit",
            "Max message size",
            (id) => (
              <InputNumber
                id={id}
                min={0}
                max={2000}
                step={1}
                value={now.limit_bytes / 1e6}
                suffix="MB"
                onChange={(mb) => set({ limit_bytes: Math.round((mb ?? 0) * 1e6) })}
              />
            ),
            "Encoded size, a third above the file. 0 = server limit.",
          )}
          {field("user", "User", (id) => (
            <Input
              id={id}
              value={now.user}
              autoComplete="off"
              placeholder="none"
              onChange={(event) => set({ user: event.target.value })}
            />
          ))}
        </>
      )}
      {(now.kind === "mail" || now.kind === "desk") &&
        field(
          "secret",
          now.kind === "mail" ? "Password" : "Token",
          (id) => (
            <Input.Password
              id={id}
              value={secret ?? ""}
              autoComplete="new-password"
              placeholder={shown?.has_secret ? "saved; type to replace" : "none"}
              onChange={(event) => setSecret(event.target.value)}
            />
          ),
          `Saved in ${secretsIn === "keyring" ? "the keyring of this system" : "a file that only this user can read"}.`,
        )}
      {keep.error && (
        <p className="field-error" role="alert">
          {keep.error.message}
        </p>
      )}
      <div className="drop-off-acts">
        <Button type="primary" htmlType="submit" loading={keep.isPending}>
          {shown ? "Save" : "Add"}
        </Button>
        <Button onClick={close}>Cancel</Button>
      </div>
    </form>
  );
}
