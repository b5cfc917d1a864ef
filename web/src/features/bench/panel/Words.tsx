import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, type Mix, type Row, type Word } from "../../../api/client";
import { useSilence } from "../../../shared/silence";
import { useSetOut } from "../session";

/** Terms of each station that need an explanation. */
const WORDS: Readonly<Record<string, readonly (readonly [Word, string])[]>> = {
  source: [
    ["sample-rate", "sample rate"],
    ["bit-depth", "bit depth"],
    ["lufs", "LUFS"],
    ["true-peak", "true peak"],
    ["dbfs", "dBFS"],
  ],
  range: [
    ["lufs", "LUFS"],
    ["true-peak", "true peak"],
    ["dbfs", "dBFS"],
  ],
  finish: [
    ["limiter", "limiter"],
    ["true-peak", "true peak"],
  ],
  level: [
    ["lufs", "LUFS"],
    ["true-peak", "true peak"],
    ["dbfs", "dBFS"],
    ["limiter", "limiter"],
  ],
  rate: [["sample-rate", "sample rate"]],
  depth: [
    ["bit-depth", "bit depth"],
    ["dither", "dither"],
    ["noise-shaping", "noise shaping"],
    ["dbfs", "dBFS"],
  ],
  codec: [
    ["lossy", "lossy"],
    ["bit-rate", "bit rate"],
  ],
};

/** Words explain themselves where they stand, with the figures of this file; who knows them has them silent. */
export function Words({ mix, row, kind }: { mix: Mix; row: Row; kind: string }) {
  const { silent, turn } = useSilence();
  const bench = useSetOut();
  const [open, setOpen] = useState<Word | null>(null);
  const id = useId();
  const found = useQuery({
    queryKey: ["ticket", "words", mix.id, row.id, bench],
    queryFn: () => api.explained(mix.id, row.id, bench),
    enabled: open !== null,
    placeholderData: (before) => before,
  });
  const words = WORDS[kind];
  if (silent || !words) return null;
  return (
    <div className="words">
      <p>
        {words.map(([word, text]) => (
          <button
            key={word}
            type="button"
            aria-expanded={open === word}
            aria-controls={id}
            onClick={() => setOpen(open === word ? null : word)}
          >
            {text}
          </button>
        ))}
        <button type="button" className="words-known" aria-label="Hide explanations" onClick={turn}>
          Hide
        </button>
      </p>
      <p id={id} className="words-told" aria-live="polite" hidden={!open}>
        {open && (found.data?.find((one) => one.word === open)?.sentences ?? found.error?.message)}
      </p>
    </div>
  );
}
