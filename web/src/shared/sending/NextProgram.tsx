import { useQuery, useQueryClient } from "@tanstack/react-query";
import { App, Button, Checkbox, Form, Select } from "antd";
import { useState } from "react";
import { api, type HandoffState } from "../../api/client";
import { FolderChoice } from "../folders/FolderChoice";
import { JobProgress } from "../jobs/JobProgress";
import { useRemembered } from "../remembered";

/** An action for the next program; errors are shown, and the state is reloaded. */
function useHand() {
  const queries = useQueryClient();
  const { message } = App.useApp();
  return async (deed: () => Promise<unknown>) => {
    try {
      await deed();
    } catch (error) {
      message.error((error as Error).message);
    }
    await queries.invalidateQueries({ queryKey: ["handoffs"] });
  };
}

function Standing({
  last,
  stop,
  what,
}: {
  last: HandoffState | null | undefined;
  stop: () => void;
  what: string;
}) {
  if (!last) return null;
  if (last.state === "running") return <JobProgress job={last} label={what} cancel={stop} />;
  return (
    <p className={last.state === "failed" ? "field-error" : "quiet"} role="status">
      {last.state === "done" ? `Written: ${last.written.join(", ") || "nothing"}` : last.sentence}
    </p>
  );
}

/** The mix and its stems on a timeline for picture editing. */
export function HandOff({ mix }: { mix: number }) {
  const shown = useQuery({ queryKey: ["handoffs", "mix", mix], queryFn: () => api.handoff(mix) });
  const [rate, setRate] = useRemembered("frame-rate", "25");
  const [link, setLink] = useState(false);
  const [folder, setFolder] = useState("");
  const hand = useHand();
  const running = shown.data?.last?.state === "running";
  return (
    <Form
      className="hand-off"
      aria-label="Video editing"
      onFinish={() => {
        void hand(() => api.handOff(mix, rate, link, folder));
      }}
    >
      <h3>Video editing</h3>
      <p className="quiet">Mix and stems as a timeline (OpenTimelineIO), with markers and edit list.</p>
      <Select
        size="small"
        aria-label="Frame rate"
        value={rate}
        options={(shown.data?.frame_rates ?? []).map((one) => ({
          value: one,
          label: one.endsWith("df") ? `${one.slice(0, -2)} drop frame` : `${one} frames/s`,
        }))}
        onChange={setRate}
      />
      {shown.data && (
        <FolderChoice
          of={{ mix_id: mix }}
          folder={folder || shown.data.folder}
          problem=""
          choose={setFolder}
        />
      )}
      <Checkbox checked={!link} onChange={(event) => setLink(!event.target.checked)}>
        Include media
      </Checkbox>
      <Button size="small" htmlType="submit" loading={running}>
        Export
      </Button>
      <Standing
        last={shown.data?.last}
        stop={() => void hand(() => api.cancelHandoff(mix))}
        what="Video editing"
      />
    </Form>
  );
}

/** A sidecar beside each file of a pressing: what another program needs to open it at once. */
export function Sidecars({ pressing }: { pressing: number }) {
  const last = useQuery({
    queryKey: ["handoffs", "pressing", pressing],
    queryFn: () => api.sidecars(pressing),
  });
  const hand = useHand();
  return (
    <span className="sidecars">
      <Button
        size="small"
        loading={last.data?.state === "running"}
        title="Waveform, loudness, tempo, markers and key of each file, as JSON next to it"
        onClick={() => void hand(() => api.writeSidecars(pressing))}
      >
        Export sidecars
      </Button>
      <Standing last={last.data} stop={() => void hand(() => api.cancelSidecars(pressing))} what="Sidecars" />
    </span>
  );
}
