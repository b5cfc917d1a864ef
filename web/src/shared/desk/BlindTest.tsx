import { Button, Select } from "antd";
import { useState } from "react";
import { api, type BlindView, type Mix } from "../../api/client";
import type { Mode } from "../theme";
import { BlindTrial } from "./BlindTrial";
import { DeskWave, timelineOf } from "./DeskWave";
import { Passages } from "./Passages";
import type { Loop } from "./sound/messages";
import type { DeskControl } from "./useDesk";
import type { PassageControl } from "./usePassages";

const TRIALS = [10, 12, 16, 20, 25];

interface BlindTestProps {
  control: DeskControl;
  passages: PassageControl;
  mix: Mix | null;
  mode: Mode;
  close: () => void;
}

/** Can you tell? Set up, trial by trial, and what it came to. */
export function BlindTest(props: BlindTestProps) {
  const { control, close } = props;
  const [begun, setBegun] = useState<{ test: BlindView; loop: Loop } | null>(null);
  if (begun?.test.state === "open") {
    return (
      <BlindTrial
        test={begun.test}
        loop={begun.loop}
        passages={props.passages.passages}
        mix={props.mix}
        mode={props.mode}
        mixFrom={timelineOf(control).mixFrom}
        onChange={(test) => setBegun({ ...begun, test })}
      />
    );
  }
  if (begun) return <BlindResult test={begun.test} close={close} again={() => setBegun(null)} />;
  return <SetUp {...props} begun={(test, loop) => setBegun({ test, loop })} />;
}

/** What all of the sources have, in frames of the timeline. */
function sharedBy(control: DeskControl, slots: readonly number[]): Loop {
  const voices = control.desk.voices.filter((one) => slots.includes(one.slot));
  return {
    start: Math.max(...voices.map((one) => one.start_frame)),
    end: Math.min(...voices.map((one) => one.start_frame + one.frames)),
  };
}

function SetUp({
  control,
  passages,
  mix,
  mode,
  begun,
  close,
}: BlindTestProps & { begun: (test: BlindView, loop: Loop) => void }) {
  const { desk, choice, player, snapshot } = control;
  const last = desk.voices.length - 1;
  const [slots, setSlots] = useState<readonly number[]>([0, Math.min(choice.slot || 1, last)]);
  const [trials, setTrials] = useState(10);
  const [sentence, setSentence] = useState("");
  const named = passages.passages;
  const passage = snapshot.loop ?? named.find((one) => one.name === "loudest") ?? named[0];
  const options = desk.voices.map((one) => ({ value: one.slot, label: `${one.slot}  ${one.title}` }));
  const set = (at: number, slot: number | undefined) =>
    setSlots(slot === undefined ? slots.slice(0, 2) : [...slots.slice(0, at), slot, ...slots.slice(at + 1)]);
  const begin = () => {
    if (!passage) return;
    player.pause();
    // The whole of what they share: the passage can be changed during the test.
    const { start, end } = sharedBy(control, slots);
    const wish = { slots: [...slots], trials, start_frame: start, end_frame: end };
    api.beginBlindTest(desk.id, wish).then(
      (test) => begun(test, { start: passage.start - start, end: passage.end - start }),
      (error: Error) => setSentence(error.message),
    );
  };
  return (
    <section className="sheet blind" aria-label="Blind test">
      <h2>Blind test</h2>
      <p>
        In each trial X is one of these sources. Switch freely, then choose. Levels are matched. Drag in the
        waveform to loop a passage.
      </p>
      <div className="blind-set">
        {["A", "B", "C"].map((letter, at) => (
          <div key={letter}>
            <span className="quiet">{letter} is</span>{" "}
            <Select
              aria-label={letter}
              value={slots[at] ?? null}
              options={options}
              allowClear={at === 2}
              placeholder="none (two sources)"
              onChange={(slot: number | undefined) => set(at, slot)}
              popupMatchSelectWidth={false}
            />
          </div>
        ))}
        <div>
          <span className="quiet">Trials</span>{" "}
          <Select
            aria-label="Trials"
            value={trials}
            onChange={setTrials}
            options={TRIALS.map((count) => ({ value: count, label: String(count) }))}
          />
        </div>
      </div>
      <Passages loop={passage ?? null} rateHz={desk.rate_hz} {...passages} />
      <DeskWave
        timeline={{ ...timelineOf(control), snapshot: { ...snapshot, loop: passage ?? null } }}
        mix={mix}
        mode={mode}
        hearStretch={passages.hearStretch}
      />
      {sentence && <p role="alert">{sentence}</p>}
      <p className="blind-buttons">
        <Button type="primary" autoFocus onClick={begin} disabled={!passage}>
          Start test
        </Button>
        <Button onClick={() => player.toggle()}>{snapshot.wanted ? "Pause" : "Play"}</Button>
        <Button onClick={close}>Back to listening desk</Button>
      </p>
    </section>
  );
}

/** What a test came to, with every trial of it and the seed that its order came of. */
export function BlindResult({
  test,
  close,
  again,
}: {
  test: BlindView;
  close?: () => void;
  again?: () => void;
}) {
  const letter = (at: number | undefined) => (at === undefined ? "" : ("ABC"[at] ?? ""));
  return (
    <section className="sheet blind" aria-label="Result of the blind test">
      <h2>{test.titles.join(" or ")}</h2>
      <p>
        <b>{test.sentence}</b>
      </p>
      <ol className="blind-trials">
        {test.hidden.map((hidden, at) => {
          const right = test.answers[at] === hidden;
          return (
            <li key={at} className={right ? "right" : "wrong"}>
              {letter(test.answers[at])} {right ? "right" : `wrong: ${letter(hidden)}`}
            </li>
          );
        })}
      </ol>
      <p className="quiet">
        Order seed <code>{test.seed}</code>
      </p>
      {(again || close) && (
        <p className="blind-buttons">
          {again && <Button onClick={again}>New test</Button>}
          {close && (
            <Button type="primary" autoFocus onClick={close}>
              Back to listening desk
            </Button>
          )}
        </p>
      )}
    </section>
  );
}
