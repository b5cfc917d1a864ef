import { Button } from "antd";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Mix } from "../../api/client";
import { usePlayer } from "../../shared/sound/player";
import { channels, clock, level, rate } from "../../shared/text/format";

interface BenchHeadProps {
  mix: Mix;
  showKeys: () => void;
  children: ReactNode;
}

/** What the mix is, and the listening controls. */
export function BenchHead({ mix, showKeys, children }: BenchHeadProps) {
  const playing = usePlayer();
  const over = mix.measures.samples_over_full_scale > 0;
  return (
    <>
      <header className="bench-head">
        <h1>{mix.title}</h1>
        <p>
          <b>{clock(mix.frames, mix.rate_hz)}</b> · <b>{rate(mix.rate_hz)}</b> · <b>{mix.depth_label}</b> ·{" "}
          {channels(mix.channels)} · {level(mix.measures.integrated_lufs, "LUFS")} · peak{" "}
          <b className={over ? "over" : ""}>{level(mix.measures.sample_peak_dbfs)}</b>
        </p>
        {children}
        <fieldset className="listening" aria-label="More">
          <Link to={`/desk/${mix.id}`}>Listening desk</Link>
          <Button type="text" onClick={showKeys} aria-keyshortcuts="?">
            Shortcuts
          </Button>
        </fieldset>
      </header>
      {playing.status === "failed" && (
        <p className="field-error" role="alert">
          {playing.message}
        </p>
      )}
    </>
  );
}
