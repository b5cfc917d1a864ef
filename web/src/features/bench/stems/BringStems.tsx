import { Button, Input } from "antd";
import { useRef, useState } from "react";
import type { StemHands } from "./queries";

/** Stems from this browser, or by their path on the server: a file, a folder, or a pattern of names. */
export function BringStems({ hands, send }: { hands: StemHands; send: (files: Iterable<File>) => void }) {
  const [path, setPath] = useState("");
  const chooser = useRef<HTMLInputElement>(null);
  const bring = () => hands.fetch.mutate(path, { onSuccess: () => setPath("") });
  return (
    <div className="stem-bring">
      <Button size="small" onClick={() => chooser.current?.click()}>
        Choose files
      </Button>
      <input
        ref={chooser}
        type="file"
        multiple
        hidden
        aria-label="Stems"
        onChange={(event) => {
          send([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <form
        onSubmit={(event) => {
          event.preventDefault();
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
          Bring in
        </Button>
      </form>
    </div>
  );
}
