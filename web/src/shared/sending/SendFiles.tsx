import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Popover, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Pressing } from "../../api/client";
import { useSendAction } from "../jobs/useAction";
import { counted } from "../text/format";
import { TRANSFERS } from "../text/words";
import { Accepting } from "./Accepting";
import { useDropOffs } from "./queries";

interface SendFilesProps {
  pressing: Pressing;
  /** The file to begin with; all of them where none is named. */
  file?: number | undefined;
}

/** Sends pressed files: which of them, the drop-offs, and the sign-off where there are findings. */
export function SendFiles({ pressing, file }: SendFilesProps) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      placement="bottomRight"
      destroyOnHidden
      content={<Choosing pressing={pressing} file={file} />}
    >
      <Button>{file === undefined ? "Send…" : "Send this file"}</Button>
    </Popover>
  );
}

function Choosing({ pressing, file }: SendFilesProps) {
  const go = useNavigate();
  const book = useDropOffs();
  const [names, setNames] = useState<string[]>([]);
  const sendable = pressing.files.filter((one) => one.there && one.verdict !== "stop");
  const [numbers, setNumbers] = useState(() =>
    sendable.map((one) => one.number).filter((one) => file === undefined || one === file),
  );
  const there = sendable.filter((one) => numbers.includes(one.number));
  const looks = there.filter((one) => one.needs_sign_off).length;
  const send = useSendAction(
    ({ by, because }: { by: string; because: string }) =>
      api.sendFiles(pressing.id, numbers, names, by, because),
    () => go("/send"),
  );
  const dropOffs = book.data?.drop_offs ?? [];
  const toLibrary = dropOffs.some(
    ({ drop_off }) => drop_off.kind === "library" && names.includes(drop_off.name),
  );
  if (book.data && !dropOffs.length) {
    return (
      <p>
        No drop-offs yet. <Link to="/send">Add one.</Link>
      </p>
    );
  }
  return (
    <div className="send-files">
      <Select
        mode="multiple"
        aria-label="Drop-offs"
        placeholder="Choose drop-offs"
        value={names}
        options={dropOffs.map((one) => ({ value: one.drop_off.name, label: one.drop_off.name }))}
        onChange={setNames}
      />
      {sendable.length > 1 && (
        <Checkbox.Group
          aria-label="Files to send"
          className="send-list"
          value={numbers}
          options={sendable.map((one) => ({ value: one.number, label: one.name }))}
          onChange={setNumbers}
        />
      )}
      <p className="quiet">
        {counted(there.length, "file")}
        {looks > 0 && `, ${looks} need sign-off`}
        {there.length > 1 && toLibrary && ". A music library gets one copy of each recording."}
      </p>
      {looks > 0 && (
        <Accepting
          pending={send.isPending}
          ready={names.length > 0}
          accept={(by, because) => send.mutate({ by, because })}
        />
      )}
      <Button
        type="primary"
        disabled={!names.length || !there.length}
        loading={send.isPending}
        onClick={() => send.mutate({ by: "", because: "" })}
      >
        {looks > 0 ? "Send ready files" : "Send"}
      </Button>
    </div>
  );
}

/** What of a pressing was sent, in a line each. */
export function SentFiles({ pressing }: { pressing: number }) {
  const sent = useQuery({
    queryKey: ["outbox", "pressing", pressing],
    queryFn: () => api.parcelsOf(pressing),
  });
  if (!sent.data?.length) return null;
  return (
    <p className="sheet-links">
      <span className="quiet">Sent:</span>
      {sent.data.slice(0, 12).map((one) => (
        <Link key={one.id} to="/send" title={one.sentence}>
          {one.name} to {one.drop_off}, {TRANSFERS[one.state]}
        </Link>
      ))}
    </p>
  );
}
