import { Button } from "antd";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Mix } from "../../api/client";
import { channels, clock, level, rate } from "../../shared/format";
import { usePlayer } from "../../shared/player";
import { Meter } from "./Meter";
import type { Listening } from "./useListening";

interface BenchHeadProps {
  mix: Mix;
  listening: Listening;
  showKeys: () => void;
  children: ReactNode;
}

/** What the mix is, and the listening controls. */
export function BenchHead({ mix, listening, showKeys, children }: BenchHeadProps) {
  const playing = usePlayer();
  const over = mix.measures.samples_over_full_scale > 0;
  return (
    <>
      <header className="bench-head">
        <h1>{mix.title}</h1>
        <p>
          <b>{clock(mix.frames, mix.rate_hz, 1)}</b> · <b>{rate(mix.rate_hz)}</b> · <b>{mix.depth_label}</b> ·{" "}
          {channels(mix.channels)} · {level(mix.measures.integrated_lufs, "LUFS")} · peak{" "}
          <b className={over ? "over" : ""}>{level(mix.measures.sample_peak_dbfs)}</b>
        </p>
        {children}
        <fieldset className="listening" aria-label="Listening">
          <Meter />
          <Button onClick={listening.playRange} aria-keyshortcuts="Space">
            {playing.status === "playing" ? "Stop" : "Play range"}
          </Button>
          <Button onClick={listening.hearStart} aria-keyshortcuts="s">
            Hear start
          </Button>
          <Button onClick={listening.hearEnd} aria-keyshortcuts="e">
            Hear end
          </Button>
          <Link to={`/desk/${mix.id}`}>Listening desk</Link>
          <Button type="text" onClick={showKeys} aria-keyshortcuts="?">
            Keys
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
