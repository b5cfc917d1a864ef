import { useMutation, useQueryClient } from "@tanstack/react-query";
import { App, Button, Input } from "antd";
import { useState } from "react";
import { api, type Mix, type Row } from "../../../api/client";
import { useSession } from "../session";

/** Saves the settings of a delivery as a brief; its requirements are proposed from them, and edited in Briefs. */
export function SaveAsBrief({ mix, row }: { mix: Mix; row: Row }) {
  const session = useSession();
  const queries = useQueryClient();
  const { message } = App.useApp();
  const [title, setTitle] = useState("");
  const save = useMutation({
    mutationFn: () => api.saveAsBrief(mix.id, session.bench(), row.id, title.trim()),
    onSuccess: (brief) => {
      setTitle("");
      message.success(`Brief ${brief.title} saved. Its requirements are in Briefs.`);
      return queries.invalidateQueries({ queryKey: ["briefs"] });
    },
  });
  return (
    <div className="save-brief">
      <Input
        size="small"
        aria-label="Title of the brief"
        placeholder="New title"
        value={title}
        maxLength={80}
        onChange={(event) => setTitle(event.target.value)}
        onPressEnter={() => title.trim() && save.mutate()}
      />
      <Button
        size="small"
        type="primary"
        disabled={!title.trim()}
        loading={save.isPending}
        onClick={() => save.mutate()}
      >
        Save as brief
      </Button>
      {save.error && (
        <p className="field-error" role="alert">
          {save.error.message}
        </p>
      )}
    </div>
  );
}
