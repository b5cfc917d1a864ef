import { useQuery } from "@tanstack/react-query";
import { Button, Form, Input, Select } from "antd";
import { type DragEvent, useEffect, useState } from "react";
import { api, type ShelfMix } from "../../../api/client";
import { ChooseFiles } from "../../../shared/files/ChooseFiles";
import { JobProgress } from "../../../shared/jobs/JobProgress";
import { clock, level, rate } from "../../../shared/text/format";
import { formatWords, useFormats } from "../../../shared/text/formats";
import { TempoAsk } from "../../../shared/time/TempoAsk";
import { TimeField, type Timing } from "../../../shared/time/TimeField";
import { ThereItIs } from "./ThereItIs";
import { type GuideState, useGuide } from "./useGuide";

interface GuideProps {
  mixes: readonly ShelfMix[];
  /** Nothing to close where there is nothing behind it. */
  close: (() => void) | null;
  /** Once started it stays, whatever else fills the shelf. */
  stay: () => void;
}

/** The way to a first file: which mix, where it is going, and there it is. Nothing else has to be understood. */
export function Guide({ mixes, close, stay }: GuideProps) {
  const guide = useGuide();
  const begun = guide.sending || !!guide.mix || !!guide.brief;
  useEffect(() => {
    if (begun) stay();
  }, [begun, stay]);
  const drop = (event: DragEvent) => {
    const { files, items } = event.dataTransfer;
    const [file] = files;
    // The shelf behind it accepts files dropped anywhere else, and here too more than a single
    // file.
    if (!file || files.length > 1 || items[0]?.webkitGetAsEntry()?.isDirectory || guide.mix) return;
    event.preventDefault();
    event.stopPropagation();
    guide.bringIn(file);
  };
  return (
    <section className="sheet guide" aria-label="Quick start" onDrop={drop} onFocus={stay}>
      {close && (
        <Button type="text" size="small" className="guide-close" onClick={close}>
          Close
        </Button>
      )}
      <ol>
        <li>
          <h2>Which mix?</h2>
          <WhichMix guide={guide} mixes={mixes} />
        </li>
        <li>
          <h2>Where is it going?</h2>
          <WhereTo guide={guide} />
          <WhichTempo guide={guide} />
        </li>
        <li>
          <h2>{guide.ended ? "Done" : "Press"}</h2>
          <ThereItIs guide={guide} />
        </li>
      </ol>
      {guide.problem && (
        <p className="field-error" role="alert">
          {guide.problem.message}
        </p>
      )}
    </section>
  );
}

function WhichMix({ guide, mixes }: { guide: GuideState; mixes: readonly ShelfMix[] }) {
  const [path, setPath] = useState("");
  const { mix } = guide;
  if (mix) {
    return (
      <div className="guide-answer">
        <p>
          <b>{mix.title}</b>, {clock(mix.frames, mix.rate_hz, 0)} · {rate(mix.rate_hz)} · {mix.depth_label} ·{" "}
          {level(mix.measures.integrated_lufs, "LUFS")}
        </p>
        <Button size="small" type="text" onClick={guide.otherMix}>
          Change
        </Button>
      </div>
    );
  }
  if (guide.sending) {
    return (
      <JobProgress
        job={guide.reading}
        label="Reading the mix"
        doing="Reading and measuring. The original is not changed."
      />
    );
  }
  return (
    <>
      <p>A finished stereo mix: WAV, AIFF, CAF, FLAC, MP3 or Ogg. The original is never changed.</p>
      <div className="guide-acts">
        <ChooseFiles name="guide-chooser" type="primary" choose={([file]) => file && guide.bringIn(file)}>
          Choose a file
        </ChooseFiles>
        <span>or drop it here, or</span>
        <Form
          onFinish={() => {
            if (path.trim()) guide.bringIn(path);
          }}
        >
          <Input
            aria-label="Path of a mix on this machine"
            placeholder="enter a path"
            value={path}
            onChange={(event) => setPath(event.target.value)}
          />
        </Form>
        {mixes.length > 0 && (
          <Select
            showSearch
            aria-label="Mix on the Shelf"
            placeholder="or choose from the Shelf"
            optionFilterProp="label"
            value={null}
            onChange={(id: number | null) => id !== null && guide.chooseMix(id)}
            options={mixes.map((one) => ({ value: one.id, label: one.title }))}
          />
        )}
      </div>
    </>
  );
}

const IN_TIME: Timing = { unit: "time", bars: [], tempo: null };

/** A loop has whole bars: they are unknown without a tempo and bar 1. */
function WhichTempo({ guide }: { guide: GuideState }) {
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const wanted = briefs.data?.find((one) => one.id === guide.brief)?.require.whole_bars;
  const { mix, tempo, setTempo } = guide;
  if (!mix || !wanted) return null;
  return (
    <section className="guide-tempo" aria-label="Tempo and bar 1">
      {tempo ? (
        <>
          <p>
            {tempo.changes[0]?.tempo_bpm} bpm{" "}
            <Button size="small" type="text" onClick={() => setTempo(null)}>
              Change tempo
            </Button>
          </p>
          <TimeField
            mix={mix}
            timing={IN_TIME}
            label="Bar 1 at"
            frame={tempo.first_bar_frame}
            onFrame={(first_bar_frame) => setTempo({ ...tempo, first_bar_frame })}
          />
        </>
      ) : (
        <>
          <p>Which tempo? A loop is whole bars.</p>
          <TempoAsk mixId={mix.id} choose={setTempo} ownKey />
        </>
      )}
    </section>
  );
}

function WhereTo({ guide }: { guide: GuideState }) {
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const all = (briefs.data ?? []).filter((one) => one.id !== "blank");
  const formats = useFormats();
  const chosen = all.find((one) => one.id === guide.brief);
  return (
    <>
      <ul className="guide-briefs" aria-label="Briefs">
        {all.map((one) => (
          <li key={one.id}>
            <button
              type="button"
              aria-pressed={one.id === guide.brief}
              onClick={() => guide.chooseBrief(one.id)}
              title={one.sentence}
            >
              <b>{one.title}</b>
              <small>{formatWords(one, formats.of(one.prefer.container))}</small>
            </button>
          </li>
        ))}
      </ul>
      <p className="quiet guide-brief-words" aria-live="polite">
        {chosen ? chosen.sentence : "Each brief sets the right format. Change anything later on the Bench."}
      </p>
    </>
  );
}
