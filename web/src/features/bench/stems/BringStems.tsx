import { Button, Form, Input } from "antd";
import { useState } from "react";
import { ChooseFiles } from "../../../shared/files/ChooseFiles";
import type { StemHands } from "./queries";

/** Stems from this browser, or by their path on the server: a file, a folder, or a pattern of names. */
export function BringStems({ hands, send }: { hands: StemHands; send: (files: Iterable<File>) => void }) {
  const [path, setPath] = useState("");
  const bring = () => hands.fetch.mutate(path, { onSuccess: () => setPath("") });
  return (
    <div className="stem-bring">
      <ChooseFiles name="stems-chooser" multiple choose={send} size="small">
        Choose files
      </ChooseFiles>
      <Form
        onFinish={() => {
          if (path.trim()) bring();
        }}
      >
        <Input
          size="small"
          value={path}
          aria-label="Folder of stems on this machine"
          placeholder="/mixes/Millrace stems/*.wav"
          onChange={(event) => setPath(event.target.value)}
        />
        <Button size="small" htmlType="submit" disabled={!path.trim()} loading={hands.fetch.isPending}>
          Add stems
        </Button>
      </Form>
    </div>
  );
}
