import { useMutation, useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type Finding, type OrderShown, type RunningOrder } from "../../api/client";
import { FolderChoice } from "../../shared/folders/FolderChoice";
import { counted } from "../../shared/text/format";
import { VerdictMark } from "../../shared/text/Verdict";
import { room } from "./model";
import { BRIEFS } from "./WhereTo";

const RANK = { stop: 0, look: 1, ready: 2 } as const;

/** Findings of the order, free time on a disc, and both kinds of delivery. */
export function OrderFoot({
  shown,
  choose,
  heal,
  change,
}: {
  shown: OrderShown;
  choose: (at: number) => void;
  heal: (finding: Finding) => void;
  change: (order: RunningOrder) => void;
}) {
  const go = useNavigate();
  const [all, setAll] = useState(false);
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const press = useMutation({
    mutationFn: (wish: { files: boolean; disc: boolean }) => api.pressOrder(shown.id, wish),
    onSuccess: (made) => go(`/press/${made.id}`),
  });
  const findings = [...shown.findings].sort((one, other) => RANK[one.verdict] - RANK[other.verdict]);
  const listed = all ? findings : findings.slice(0, 1);
  const count = shown.entries.length;
  const known = shown.order.lines.filter((line) => briefs.data?.some((one) => one.id === line.brief));
  const places = known.length;
  const stopped = shown.findings.some((one) => one.verdict === "stop");
  return (
    <footer className="order-foot">
      <ul className="order-findings" aria-label="Findings">
        {listed.map((one) => (
          <li key={`${one.rule} ${one.entry} ${one.sentence}`}>
            <VerdictMark verdict={one.verdict} size={16} />
            <button type="button" className="plain" onClick={() => one.entry !== null && choose(one.entry)}>
              {one.sentence}
            </button>
            {one.remedy && (
              <Button type="link" size="small" onClick={() => heal(one)}>
                {one.remedy.label}
              </Button>
            )}
          </li>
        ))}
        {findings.length > 1 && (
          <li>
            <Button type="text" size="small" onClick={() => setAll(!all)}>
              {all ? "Show fewer" : `Show ${findings.length - 1} more`}
            </Button>
          </li>
        )}
        {!findings.length && count > 0 && <li className="quiet">No findings.</li>}
      </ul>
      <span className="order-room">
        {press.error ? (
          <span className="over" role="alert">
            {press.error.message}
          </span>
        ) : (
          room(shown.lead_out_frame, shown.capacities)
        )}
      </span>
      {count > 0 && (
        <FolderChoice
          of={{ order_id: shown.id }}
          folder={shown.folder}
          problem={shown.folder_problem}
          choose={(folder) => change({ ...shown.order, folder })}
        />
      )}
      {places === 0 ? (
        <Button
          disabled={!count}
          onClick={() => {
            const field = document.getElementById(BRIEFS);
            field?.scrollIntoView({ block: "center" });
            field?.focus();
          }}
        >
          Press files…
        </Button>
      ) : (
        <Button
          disabled={!count}
          loading={press.isPending && press.variables.files}
          onClick={() => press.mutate({ files: true, disc: false })}
        >
          Press {counted(count * places, "file")} for{" "}
          {places > 1 ? `${places} briefs` : titleOf(briefs.data, known[0]?.brief)}
        </Button>
      )}
      <Button
        type="primary"
        disabled={!count || stopped}
        loading={press.isPending && press.variables.disc}
        onClick={() => press.mutate({ files: false, disc: true })}
      >
        Press disc image
      </Button>
    </footer>
  );
}

const titleOf = (briefs: readonly { id: string; title: string }[] | undefined, id: string | undefined) =>
  briefs?.find((one) => one.id === id)?.title ?? "";
