import { useMutation } from "@tanstack/react-query";
import { Button, Form, Input } from "antd";
import { useState } from "react";
import { api } from "../../api/client";
import { ChooseFiles } from "../../shared/files/ChooseFiles";

interface BringInProps {
  send: (files: Iterable<File>) => void;
  onArrived: () => void;
  /** Leads to the way in three steps; nothing where one is on it. */
  guide: (() => void) | null;
}

/** Files from this browser, or a file or a folder of the machine by its path. */
export function BringIn({ send, onArrived, guide }: BringInProps) {
  return (
    <section className="bring-in" aria-label="Add a mix">
      <ChooseFiles name="file-chooser" multiple choose={send} type={guide ? "primary" : "default"}>
        {guide ? "Choose a file" : "Choose files"}
      </ChooseFiles>
      <PathForm onArrived={onArrived} />
      {guide && (
        <Button type="text" onClick={guide}>
          Quick start
        </Button>
      )}
    </section>
  );
}

function PathForm({ onArrived }: { onArrived: () => void }) {
  const [path, setPath] = useState("");
  const fetching = useMutation({
    mutationFn: api.fetchPath,
    onSuccess: () => {
      setPath("");
      onArrived();
    },
  });
  return (
    <Form
      className="path-form"
      onFinish={() => {
        if (path.trim()) fetching.mutate(path);
      }}
    >
      <label htmlFor="server-path">or enter a file or folder path</label>
      <Input
        id="server-path"
        value={path}
        placeholder="/mixes/Millrace.wav"
        status={fetching.error ? "error" : ""}
        onChange={(event) => {
          setPath(event.target.value);
          fetching.reset();
        }}
      />
      <Button htmlType="submit" disabled={!path.trim()} loading={fetching.isPending}>
        Add
      </Button>
      {fetching.error && (
        <p className="field-error" role="alert">
          {fetching.error.message}
        </p>
      )}
    </Form>
  );
}
