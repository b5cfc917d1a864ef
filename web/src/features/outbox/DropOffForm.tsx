import { Button, Form, Input, InputNumber, Select } from "antd";
import { api, type DropOff, type DropOffShown } from "../../api/client";
import { useSendAction } from "../../shared/jobs/useAction";
import { KINDS, type Kind } from "./words";

interface Fields extends DropOff {
  secret: string | null;
}

const NEW: Fields = {
  name: "",
  kind: "folder",
  place: "",
  sub_folder: "",
  sender: "",
  subject: "{title} by {artist}",
  text: "{title} by {artist} is attached: {format}, {rate}, {length}.\n\nSHA-256 {sha256}\n",
  limit_bytes: 0,
  user: "",
  secret: null,
};

interface DropOffFormProps {
  shown: DropOffShown | null;
  secretsIn: string;
  close: () => void;
}

/** A new drop-off, or changes of one. Its secret is written, and never shown again. */
export function DropOffForm({ shown, secretsIn, close }: DropOffFormProps) {
  const [form] = Form.useForm<Fields>();
  const kind = Form.useWatch("kind", form) ?? shown?.drop_off.kind ?? NEW.kind;
  const words = KINDS[kind];
  const keep = useSendAction(
    ({ secret, ...drop_off }: Fields) => api.keepDropOff(shown?.id ?? null, drop_off, secret),
    close,
  );
  return (
    <Form<Fields>
      form={form}
      name={`drop-off-${shown?.id ?? "new"}`}
      layout="vertical"
      className="sheet drop-off-form"
      aria-label={shown ? `Edit ${shown.drop_off.name}` : "New drop-off"}
      initialValues={{ ...NEW, ...shown?.drop_off }}
      onFinish={() => keep.mutate(form.getFieldsValue(true))}
    >
      <h2>{shown ? shown.drop_off.name : "New drop-off"}</h2>
      <Form.Item name="kind" label="Type">
        <Select<Kind>
          disabled={shown !== null}
          options={(Object.keys(KINDS) as Kind[]).map((one) => ({ value: one, label: KINDS[one].title }))}
        />
      </Form.Item>
      <Form.Item name="name" label="Name">
        <Input maxLength={80} />
      </Form.Item>
      <Form.Item name="place" label={words.place} extra={words.hint}>
        <Input maxLength={1000} />
      </Form.Item>
      {(kind === "folder" || kind === "sync") && (
        <Form.Item name="sub_folder" label="Sub-folders" extra="Label pattern, for example {artist}/{album}">
          <Input placeholder="none" maxLength={300} />
        </Form.Item>
      )}
      {kind === "mail" && (
        <>
          <Form.Item name="sender" label="From">
            <Input placeholder="ripe-press at the recipient's host" />
          </Form.Item>
          <Form.Item name="subject" label="Subject">
            <Input />
          </Form.Item>
          <Form.Item
            name="text"
            label="Text"
            extra="Subject and text are label patterns, with {sha256} in addition."
          >
            <Input.TextArea autoSize={{ minRows: 3, maxRows: 8 }} />
          </Form.Item>
          <Form.Item
            name="limit_bytes"
            label="Max message size"
            extra="Encoded size, a third above the file. 0 = server limit."
            getValueProps={(bytes: number) => ({ value: bytes / 1e6 })}
            normalize={(mb: number | null) => Math.round((mb ?? 0) * 1e6)}
          >
            <InputNumber min={0} max={2000} step={1} suffix="MB" />
          </Form.Item>
          <Form.Item name="user" label="User">
            <Input autoComplete="off" placeholder="none" />
          </Form.Item>
        </>
      )}
      {(kind === "mail" || kind === "desk") && (
        <Form.Item
          name="secret"
          label={kind === "mail" ? "Password" : "Token"}
          extra={`Saved in ${secretsIn === "keyring" ? "the keyring of this system" : "a file that only this user can read"}.`}
        >
          <Input.Password
            autoComplete="new-password"
            placeholder={shown?.has_secret ? "saved; type to replace" : "none"}
          />
        </Form.Item>
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
    </Form>
  );
}
