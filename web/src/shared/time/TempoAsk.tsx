import { useQuery } from "@tanstack/react-query";
import { Button, InputNumber } from "antd";
import { useState } from "react";
import { api, type TempoHint, type TempoMap } from "../../api/client";
import { useKeys } from "../commands/keys";
import { bpmOfTaps, withTap } from "./taps";

const BY: Record<string, string> = {
  tags: "from the tags",
  "MIDI file": "from the MIDI file next to it",
  "file name": "from the file name",
  sound: "detected",
};

/** A tempo map of one tempo, with bar 1 where the hint has it. */
export const tempoOf = (hint: TempoHint): TempoMap => ({
  changes: [{ bar: 1, tempo_bpm: hint.bpm, beats: hint.beats, unit: 4 }],
  first_bar_frame: hint.first_bar_frame,
});

interface TempoAskProps {
  mixId: number;
  choose: (tempo: TempoMap) => void;
  /** Whether the key T taps here; where a screen has that key itself it does not. */
  ownKey?: boolean;
}

/** Asks for a tempo: what tags, names and the sound offer, tapped, or typed. Nothing is guessed. */
export function TempoAsk({ mixId, choose, ownKey = false }: TempoAskProps) {
  const hints = useQuery({
    queryKey: ["tempo-hints", mixId],
    queryFn: () => api.tempoHints(mixId),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const [taps, setTaps] = useState<number[]>([]);
  const [typed, setTyped] = useState<number | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const tapped = bpmOfTaps(taps);
  const wanted = typed ?? tapped;
  const tap = () => {
    setTyped(null);
    setTaps((all) => withTap(all, performance.now()));
  };
  useKeys(ownKey ? { t: tap } : {});
  const use = async (bpm: number) => {
    try {
      const [hint] = await api.tempoHints(mixId, bpm);
      if (hint) choose(tempoOf(hint));
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error));
    }
  };
  const offered = hints.data ?? [];
  return (
    <div className="tempo-ask">
      {offered.map((hint) => (
        <div key={hint.by} className="tempo-hint">
          <Button size="small" onClick={() => choose(tempoOf(hint))}>
            Use {hint.bpm} bpm
          </Button>
          <span className="quiet">
            {BY[hint.by] ?? hint.by}
            {hint.confidence !== null && `, confidence ${hint.confidence.toFixed(2)}`}
          </span>
          {hint.others.map((bpm) => (
            <Button key={bpm} size="small" type="text" onClick={() => use(bpm)}>
              {bpm} bpm
            </Button>
          ))}
        </div>
      ))}
      {hints.isSuccess && !offered.length && (
        <p className="quiet">No tempo in tags or file names, and none detected.</p>
      )}
      <div className="tempo-hint">
        <Button size="small" aria-keyshortcuts="t" onClick={tap}>
          Tap tempo
        </Button>
        <InputNumber
          size="small"
          aria-label="Tempo"
          min={10}
          max={1000}
          value={wanted}
          placeholder="tempo"
          suffix="bpm"
          onChange={setTyped}
          onPressEnter={() => wanted && use(wanted)}
        />
        <Button size="small" disabled={!wanted} onClick={() => wanted && use(wanted)}>
          Use tempo
        </Button>
      </div>
      {taps.length > 0 && taps.length < 4 && <p className="quiet">Tap at least four times.</p>}
      {(problem ?? hints.error) && (
        <p className="field-error" role="alert">
          {problem ?? hints.error?.message}
        </p>
      )}
    </div>
  );
}
