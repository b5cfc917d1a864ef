import { Button } from "antd";
import type { Pressing } from "../../api/client";
import { api } from "../../api/client";
import { usePressingAction } from "../../shared/jobs/useAction";
import { seconds } from "../../shared/text/format";
import { when } from "../../shared/text/pressings";

import { files, stage, times } from "./words";

/** The running pressing: its files on their tree, each with a progress bar. */
export function Running({ pressing, held }: { pressing: Pressing; held: boolean }) {
  const cancel = usePressingAction(api.cancel);
  const { lines } = pressing;
  const speeds = lines.flatMap((line) =>
    line.state === "making" && line.times_realtime ? [line.times_realtime] : [],
  );
  const left = pressing.seconds_left;
  const about = [
    held ? "held" : "",
    !held && speeds.length ? times(Math.max(...speeds)) : "",
    left === null ? "" : `${seconds(left)} left`,
    `started ${when(pressing.made_at)}`,
  ];
  return (
    <section className="running" aria-label={`Pressing: ${pressing.mix_title}`}>
      <header>
        <b>
          {pressing.mix_title} · {lines.length ? files(lines.length) : "beginning"}
        </b>
        <span className="quiet" role="status">
          {about.filter(Boolean).join(" · ")}
        </span>
        <Button
          className="running-cancel"
          size="small"
          type="text"
          onClick={() => cancel.mutate(pressing.id)}
        >
          Cancel
        </Button>
      </header>
      <ul className="running-files">
        {lines.map((line) => {
          const percent = Math.round(line.part * 100);
          return (
            <li key={line.number} className={`file-${line.state}`}>
              <span className="running-name" title={line.name}>
                {line.name}
              </span>
              <span
                className="running-bar"
                role="progressbar"
                aria-label={line.name}
                aria-valuenow={percent}
                aria-valuemin={0}
                aria-valuemax={100}
              >
                <span style={{ width: `${percent}%` }} />
              </span>
              <span className="running-stage">{line.error ?? stage(line, held)}</span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
