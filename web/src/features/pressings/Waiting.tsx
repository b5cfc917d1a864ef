import { Button } from "antd";
import { api, type Pressing } from "../../api/client";
import { usePressingAction } from "../../shared/jobs/useAction";

import { waiting } from "./words";

/** Queued pressings in their order, and interrupted ones. */
export function Waiting({ pressings }: { pressings: readonly Pressing[] }) {
  const move = usePressingAction(({ id, to }: { id: number; to: number }) => api.movePressing(id, to));
  const out = usePressingAction(api.cancel);
  const goOn = usePressingAction(api.goOn);
  if (!pressings.length) return null;
  const line = pressings.filter((one) => one.state === "queued");
  return (
    <ol className="waiting" aria-label="Queue">
      {pressings.map((pressing) => {
        const place = line.indexOf(pressing);
        const cut = pressing.state === "interrupted";
        return (
          <li key={pressing.id}>
            <b>{pressing.mix_title}</b>
            <span className="quiet waiting-for">{pressing.purposes}</span>
            <span className={cut ? "waiting-cut" : "quiet"}>{waiting(pressing)}</span>
            <span className="waiting-deeds">
              {cut ? (
                <Button size="small" onClick={() => goOn.mutate(pressing.id)}>
                  Resume
                </Button>
              ) : (
                <>
                  <Button
                    size="small"
                    type="text"
                    disabled={place === 0}
                    aria-label={`Move ${pressing.mix_title} up`}
                    onClick={() => move.mutate({ id: pressing.id, to: place - 1 })}
                  >
                    ↑
                  </Button>
                  <Button
                    size="small"
                    type="text"
                    disabled={place === line.length - 1}
                    aria-label={`Move ${pressing.mix_title} down`}
                    onClick={() => move.mutate({ id: pressing.id, to: place + 1 })}
                  >
                    ↓
                  </Button>
                </>
              )}
              <Button size="small" type="text" onClick={() => out.mutate(pressing.id)}>
                Remove from queue
              </Button>
            </span>
          </li>
        );
      })}
    </ol>
  );
}
