import { Button } from "antd";
import { useEffect, useRef, useState, useSyncExternalStore } from "react";
import { api, type BlindView, blindBlocksUrl, type Mix } from "../../api/client";
import { useKeys } from "../commands/keys";
import type { Mode } from "../theme";
import { DeskWave } from "./DeskWave";
import { Passages } from "./Passages";
import { PASSAGE_KEYS, type Passage, type PassageName } from "./passages";
import type { Loop } from "./sound/messages";
import { Player } from "./sound/Player";

const LETTERS = ["A", "B", "C"];

interface BlindTrialProps {
  test: BlindView;
  /** The passage that is looped at first, in frames of the test. */
  loop: Loop;
  /** In frames of the listening desk. */
  passages: readonly Passage[];
  mix: Mix | null;
  mode: Mode;
  mixFrom: number;
  onChange: (test: BlindView) => void;
}

/** One trial after the other: hear A, B and X, and say what X is. Nothing here knows. */
export function BlindTrial({ test, loop, passages, mix, mode, mixFrom, onChange }: BlindTrialProps) {
  const [player, setPlayer] = useState<Player | null>(null);
  const count = test.titles.length;
  const [heard, setHeard] = useState(count);
  const [sentence, setSentence] = useState("");
  const busy = useRef(false);
  const { id, answered, rate_hz: rateHz, frames } = test;
  const first = useRef(answered);
  const opening = useRef(loop);
  const [looped, setLooped] = useState(true);
  const [last, setLast] = useState(loop);
  useEffect(() => {
    const url = blindBlocksUrl(id, first.current);
    const made = new Player({ url, rateHz, frames, voices: count + 1 });
    made.hear(opening.current, true);
    made.play();
    setPlayer(made);
    return () => made.close();
  }, [id, rateHz, frames, count]);
  // The same ramp from any of them to any other, whether they differ or not.
  useEffect(() => {
    player?.weigh(
      Array.from({ length: count + 1 }, (_, slot) => (slot === heard ? 1 : 0)),
      false,
    );
  }, [player, heard, count]);
  const snapshot = useSyncExternalStore(
    player?.subscribe ?? (() => () => {}),
    () => player?.snapshot() ?? null,
  );
  const answer = async (at: number) => {
    if (busy.current || at >= count) return;
    busy.current = true;
    try {
      const next = await api.answerBlindTest(id, answered, at);
      setSentence("");
      if (next.state === "open") {
        // Every trial begins alike: with X, from the start.
        setHeard(count);
        player?.from(blindBlocksUrl(id, next.answered));
      }
      onChange(next);
    } catch (error) {
      setSentence(error instanceof Error ? error.message : String(error));
    } finally {
      busy.current = false;
    }
  };
  const leaveOff = () => {
    api.leaveOffBlindTest(id).then(onChange, (error: Error) => setSentence(error.message));
  };
  const here = passages
    .map((one) => ({ ...one, start: one.start - test.start_frame, end: one.end - test.start_frame }))
    .filter((one) => one.start >= 0 && one.end <= frames);
  const hearStretch = (stretch: Loop) => {
    setLast(stretch);
    player?.hear(stretch, looped);
  };
  const hearPassage = (name: PassageName) => {
    const found = here.find((one) => one.name === name);
    if (found) hearStretch(found);
  };
  const turnLoop = () => {
    setLooped(!looped);
    player?.loop(looped ? null : last);
  };
  const hear = LETTERS.slice(0, count).map(
    (letter, at) => [letter.toLowerCase(), () => setHeard(at)] as const,
  );
  const answers = LETTERS.slice(0, count).map((_, at) => [String(at + 1), () => void answer(at)] as const);
  useKeys({
    " ": () => player?.toggle(),
    x: () => setHeard(count),
    r: turnLoop,
    ...Object.fromEntries(PASSAGE_KEYS.map(([name, _, key]) => [key.toLowerCase(), () => hearPassage(name)])),
    ...Object.fromEntries([...hear, ...answers]),
  });
  return (
    <section className="sheet blind" aria-label="Blind test" data-space>
      <h2>
        Trial {answered + 1} of {test.trials}
      </h2>
      <p className="quiet">
        Play with the keys {[...LETTERS.slice(0, count), "X"].join(", ")}. Answer with{" "}
        {count === 2 ? "1 or 2" : "1, 2 or 3"}; answers are final. Drag in the waveform to loop a passage.
      </p>
      <Passages
        loop={snapshot?.loop ?? null}
        rateHz={rateHz}
        passages={here}
        looped={looped}
        setLooped={turnLoop}
        hear={hearPassage}
        measures={false}
      />
      {player && snapshot && (
        <DeskWave
          timeline={{ player, snapshot, frames, rateHz, mixFrom: mixFrom + test.start_frame }}
          mix={mix}
          mode={mode}
          hearStretch={hearStretch}
        />
      )}
      <div className="blind-voices" role="radiogroup" aria-label="Source being played">
        {[...LETTERS.slice(0, count), "X"].map((letter, at) => (
          // biome-ignore lint/a11y/useSemanticElements: a large card on a key, not a dot with a label
          <button
            key={letter}
            type="button"
            role="radio"
            aria-checked={heard === at}
            className={`voice${heard === at ? " chosen" : ""}`}
            onClick={() => setHeard(at)}
          >
            <kbd>{letter}</kbd>
            <span className="voice-title">{at < count ? test.titles[at] : "one of them"}</span>
          </button>
        ))}
      </div>
      <p className="blind-buttons">
        <span>X is</span>
        {LETTERS.slice(0, count).map((letter, at) => (
          <Button key={letter} type="primary" onClick={() => void answer(at)}>
            {letter} <kbd>{at + 1}</kbd>
          </Button>
        ))}
      </p>
      <p className="blind-buttons">
        <Button onClick={() => player?.toggle()}>
          {snapshot?.wanted ? "Pause" : "Play"} <kbd>Space</kbd>
        </Button>
        <Button onClick={leaveOff}>End test</Button>
        <output className="desk-said">
          {sentence ||
            snapshot?.sentence ||
            (snapshot?.status === "gone" ? "Listening desk closed. End the test and start again." : "")}
        </output>
      </p>
    </section>
  );
}
