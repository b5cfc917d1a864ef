import { Button } from "antd";
import type { ReactNode } from "react";
import type { Mix, VoiceRequest } from "../../api/client";
import type { Mode } from "../theme";
import { AnotherVoice } from "./AnotherVoice";
import { DeskWave, timelineOf } from "./DeskWave";
import { PassageLook } from "./PassageLook";
import { Passages } from "./Passages";
import { Plays } from "./Plays";
import { Transport } from "./Transport";
import type { Opening } from "./useDesk";
import type { PassageControl } from "./usePassages";
import { type MoreOfVoice, Voices } from "./Voices";

interface DeskRoomProps {
  opening: Opening;
  passages: PassageControl;
  mix: Mix | null;
  mode: Mode;
  extras: readonly VoiceRequest[];
  setExtras: (extras: VoiceRequest[]) => void;
  /** The pressing and the mix that are heard already. */
  without: { readonly pressing: number; readonly mix: number | null };
  more?: MoreOfVoice;
  shows?: string | undefined;
  paintOver?: ((canvas: HTMLCanvasElement) => void) | undefined;
  /** Begins a blind test; nothing where there is nothing to tell apart. */
  blind: (() => void) | null;
  children?: ReactNode;
}

/** The listening desk: sources on the left, passages and their tools on the right, the transport below. */
export function DeskRoom(props: DeskRoomProps) {
  const { opening, passages, mix, mode, blind } = props;
  const { control, sentence, reopen } = opening;
  return (
    <>
      {sentence && (
        <p className="sheet note" role="alert">
          {sentence}{" "}
          <button type="button" className="linked" onClick={reopen}>
            Reopen listening desk
          </button>
        </p>
      )}
      <div className={control ? "proof-room" : ""}>
        {control && (
          <aside className="sheet desk-side" data-space>
            <h2>Sources (in sync)</h2>
            <Voices control={control} more={props.more} />
            <AnotherVoice extras={props.extras} setExtras={props.setExtras} without={props.without} />
            <Plays control={control} />
          </aside>
        )}
        <div>
          {control && (
            <section className="sheet desk-sheet" aria-label="Passages" data-space>
              <Passages
                loop={control.snapshot.loop}
                rateHz={control.desk.rate_hz}
                measurable={control.desk.voices.some((voice) => voice.kind === "file")}
                shows={props.shows}
                {...passages}
              />
              <DeskWave
                timeline={timelineOf(control)}
                mix={mix}
                mode={mode}
                hearStretch={passages.hearStretch}
                paintOver={props.paintOver}
              />
              <PassageLook control={control} mode={mode} />
            </section>
          )}
          {props.children}
        </div>
      </div>
      {control && (
        <Transport
          control={control}
          more={
            blind && (
              <Button onClick={blind}>
                Blind test <kbd>X</kbd>
              </Button>
            )
          }
        />
      )}
    </>
  );
}
