import { useQuery } from "@tanstack/react-query";
import { Button, Popover, Select } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Pressing } from "../../api/client";
import { useSendAction } from "../jobs/useAction";
import { counted } from "../text/format";
import { TRANSFERS } from "../text/words";
import { Accepting } from "./Accepting";
import { useDropOffs } from "./queries";

/** Sends pressed files: the drop-offs, and the sign-off where there are findings. */
export function SendFiles({ pressing }: { pressing: Pressing }) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      placement="bottomRight"
      destroyOnHidden
      content={<Choosing pressing={pressing} />}
    >
      <Button>Send…</Button>
    </Popover>
  );
}

function Choosing({ pressing }: { pressing: Pressing }) {
  const go = useNavigate();
  const book = useDropOffs();
  const [names, setNames] = useState<string[]>([]);
  const there = pressing.files.filter((file) => file.there && file.verdict !== "stop");
  const looks = there.filter((file) => file.verdict === "look").length;
  const send = useSendAction(
    ({ by, because }: { by: string; because: string }) => api.sendFiles(pressing.id, names, by, because),
    () => go("/send"),
  );
  const dropOffs = book.data?.drop_offs ?? [];
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
      <p className="quiet">
        {counted(there.length, "file")}
        {looks > 0 && `, ${looks} need sign-off`}
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
