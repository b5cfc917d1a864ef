import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, type Pressing } from "../../api/client";
import { MadeFiles } from "../../shared/files/MadeFiles";
import { JobProgress } from "../../shared/jobs/JobProgress";
import { usePressingAction } from "../../shared/jobs/useAction";
import { SheetLinks } from "../../shared/SheetLinks";
import { Sidecars } from "../../shared/sending/NextProgram";
import { SendFiles, SentFiles } from "../../shared/sending/SendFiles";
import { type FigureLine, Figures } from "../../shared/text/Figures";
import { bytes, seconds } from "../../shared/text/format";
import { became, when } from "../../shared/text/pressings";
import { VerdictMark } from "../../shared/text/Verdict";
import { FILES } from "../../shared/text/words";
import { Beside, BesideChoice } from "./Beside";
import { DiscMade } from "./DiscMade";
import { isOpen, usePressing } from "./queries";
import { asPressed, files, times } from "./words";

/** One pressing of the record: what it came to, whether its files are still there, and what can be done with it. */
export function PressingSide({ id }: { id: number }) {
  const found = usePressing(id);
  if (found.error) return <aside className="sheet side">{found.error.message}</aside>;
  if (!found.data) return <aside className="sheet side" aria-busy="true" />;
  return <Side key={id} pressing={found.data} />;
}

function Side({ pressing }: { pressing: Pressing }) {
  const go = useNavigate();
  const [other, setOther] = useState<number | null>(pressing.again_of);
  const [choosing, setChoosing] = useState(false);
  const check = usePressingAction(api.checkFiles);
  const stopCheck = usePressingAction(api.cancelCheck);
  const goOn = usePressingAction(api.goOn);
  const again = usePressingAction(api.pressAgain, (made) => go(`/press/${made.id}`));
  const tests = useQuery({
    queryKey: ["pressings", pressing.id, "blind-tests"],
    queryFn: () => api.blindTests(pressing.id),
  });
  const made = pressing.files.filter((file) => file.verdict !== "stop");
  const failed = pressing.lines.filter((line) => line.state === "failed" || line.state === "cancelled");
  const open = isOpen(pressing);
  return (
    <aside className="sheet side" aria-label={`Pressing ${pressing.id}`}>
      <p className="quiet">Pressing {pressing.id}</p>
      <h2>
        {pressing.verdict && <VerdictMark verdict={pressing.verdict} />} {pressing.mix_title},{" "}
        {when(pressing.made_at)}
      </h2>
      {pressing.error && <p role="alert">{pressing.error}</p>}
      <Facts pressing={pressing} />
      {pressing.disc && <DiscMade pressing={pressing.id} disc={pressing.disc} />}
      {other !== null && !open && <Beside id={pressing.id} other={other} />}
      <ul className="side-files">
        {made.map((file) => (
          <li key={file.number}>
            <VerdictMark verdict={file.verdict} size={15} />
            <span title={file.path}>{file.name}</span>
            <span className="quiet">
              {file.found && file.found !== "as-pressed" ? file.found : bytes(file.bytes)}
            </span>
            {file.compared && <small>{file.compared}</small>}
            {file.found === "moved" && <small className="path">{file.found_path}</small>}
          </li>
        ))}
        {failed.map((line) => (
          <li key={line.number}>
            <VerdictMark verdict="stop" size={15} />
            <span>{line.name}</span>
            <span className="quiet">{FILES[line.state]}</span>
            <small>{line.error}</small>
          </li>
        ))}
      </ul>
      {made.length > 0 && !open && <SheetLinks pressing={pressing.id} />}
      {made.length > 0 && !open && <Sidecars pressing={pressing.id} />}
      {!open && <SentFiles pressing={pressing.id} />}
      {tests.data && tests.data.length > 0 && (
        <ul className="side-files" aria-label="Blind tests">
          {tests.data.map((test) => (
            <li key={test.id}>
              <span className="quiet">X</span>
              <span>{test.titles.join(" or ")}</span>
              <small>{test.sentence}</small>
            </li>
          ))}
        </ul>
      )}
      <div className="side-deeds">
        <Button onClick={() => go(`/proof/${pressing.id}`)} disabled={!pressing.files.length}>
          Proof
        </Button>
        {made.length > 0 && !open && <MadeFiles pressing={pressing} />}
        {made.length > 0 && !open && <SendFiles pressing={pressing} />}
        <Button
          onClick={() => check.mutate(pressing.id)}
          disabled={!made.length || pressing.checking !== null}
        >
          Check files
        </Button>
        <Button onClick={() => setChoosing(!choosing)} disabled={open}>
          Compare with…
        </Button>
        {failed.length > 0 && !open && (
          <Button onClick={() => goOn.mutate(pressing.id)}>Retry failed files</Button>
        )}
      </div>
      {pressing.checking && (
        <JobProgress
          job={pressing.checking}
          label="Check"
          doing="Checking files"
          cancel={() => stopCheck.mutate(pressing.id)}
        />
      )}
      {choosing && (
        <BesideChoice
          of={pressing.id}
          onChoose={(number) => {
            setOther(number);
            setChoosing(false);
          }}
        />
      )}
      <Button
        type="primary"
        disabled={open || (pressing.mix_id === null && !pressing.is_order)}
        loading={again.isPending}
        onClick={() => again.mutate(pressing.id)}
      >
        Press again
      </Button>
      {pressing.mix_id === null && !pressing.is_order && (
        <p className="quiet">The mix is not on the Shelf.</p>
      )}
    </aside>
  );
}

function Facts({ pressing }: { pressing: Pressing }) {
  const looked = asPressed(pressing);
  const all: FigureLine[] = [
    [
      "State",
      became(
        pressing.state,
        pressing.lines.filter((line) => line.state === "failed").length,
        pressing.lines.length,
      ),
    ],
    ["Brief", pressing.purposes],
    ["Duration", pressing.seconds ? `${pressing.seconds.toFixed(1)} s` : ""],
    ["Speed", pressing.times_realtime ? times(pressing.times_realtime) : ""],
    ["Estimate error", pressing.off_by === null ? "" : `${Math.round(pressing.off_by * 100)} %`],
    ["Left", pressing.seconds_left === null ? "" : seconds(pressing.seconds_left)],
    ["Unchanged", looked ? `${looked.same} of ${files(looked.of)}, ${when(looked.at)}` : ""],
  ];
  return <Figures lines={all.filter(([, value]) => value)} />;
}
