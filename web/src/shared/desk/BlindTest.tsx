import { Button, Select } from "antd";
import { useState } from "react";
import { api, type BlindView } from "../../api/client";
import { BlindTrial } from "./BlindTrial";
import type { Passage } from "./passages";
import type { DeskControl } from "./useDesk";

const TRIALS = [10, 12, 16, 20, 25];

/** Can you tell? Set up, trial by trial, and what it came to. */
export function BlindTest({
  control,
  passages,
  close,
}: {
  control: DeskControl;
  passages: readonly Passage[];
  close: () => void;
}) {
  const [test, setTest] = useState<BlindView | null>(null);
  if (test?.state === "open") return <BlindTrial test={test} onChange={setTest} />;
  if (test) return <BlindResult test={test} close={close} again={() => setTest(null)} />;
  return <SetUp control={control} passages={passages} begun={setTest} close={close} />;
}

function SetUp({
  control,
  passages,
  begun,
  close,
}: {
  control: DeskControl;
  passages: readonly Passage[];
  begun: (test: BlindView) => void;
  close: () => void;
}) {
  const { desk, choice, player, snapshot } = control;
  const last = desk.voices.length - 1;
  const [slots, setSlots] = useState<readonly number[]>([0, Math.min(choice.slot || 1, last)]);
  const [trials, setTrials] = useState(10);
  const [sentence, setSentence] = useState("");
  const passage = snapshot.loop ?? passages.find((one) => one.name === "loudest") ?? passages[0];
  const options = desk.voices.map((one) => ({ value: one.slot, label: `${one.slot}  ${one.title}` }));
  const set = (at: number, slot: number | undefined) =>
    setSlots(slot === undefined ? slots.slice(0, 2) : [...slots.slice(0, at), slot, ...slots.slice(at + 1)]);
  const begin = () => {
    if (!passage) return;
    player.pause();
    const wish = { slots: [...slots], trials, start_frame: passage.start, end_frame: passage.end };
    api.beginBlindTest(desk.id, wish).then(begun, (error: Error) => setSentence(error.message));
  };
  return (
    <section className="sheet blind" aria-label="Blind test">
      <h2>Blind test</h2>
      <p>In each trial X is one of these sources. Switch freely, then choose. Levels are matched.</p>
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
        {passage && (
          <p className="quiet">
            {snapshot.loop ? "Looped passage" : "Loudest passage"}:{" "}
            {((passage.end - passage.start) / desk.rate_hz).toFixed(1)} s
          </p>
        )}
      </div>
      {sentence && <p role="alert">{sentence}</p>}
      <p className="blind-buttons">
        <Button type="primary" autoFocus onClick={begin} disabled={!passage}>
          Start test
        </Button>
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
