import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { api, type DeskVoice, type PressedFile, type Pressing, type VoiceRequest } from "../../api/client";
import { BlindResult, BlindTest } from "../../shared/desk/BlindTest";
import { DeskRoom } from "../../shared/desk/DeskRoom";
import { useDesk } from "../../shared/desk/useDesk";
import { useDeskKeys } from "../../shared/desk/useDeskKeys";
import { usePassages } from "../../shared/desk/usePassages";
import { VerdictMark } from "../../shared/text/Verdict";
import type { Mode } from "../../shared/theme";
import { useCompareWithMix, useHeld } from "./AgainstMix";
import { BesideMix } from "./BesideMix";
import { drawFileWave } from "./drawHeld";
import { FileProof } from "./FileProof";
import { Notes } from "./Notes";
import { Strip } from "./Strip";

/** Maximum number of sources of a listening desk, with the mix. */
const MOST_VOICES = 24;

/** The files of a pressing: playback against the mix and each other, and the checks of each. */
export function ProofRoom({ pressing, mode }: { pressing: Pressing; mode: Mode }) {
  // During the pressing, every finished file would reopen the listening desk.
  const through = pressing.state !== "running" && pressing.state !== "queued";
  const heard = pressing.files
    .filter((file) => through && file.there && file.verdict !== "stop")
    .slice(0, MOST_VOICES - 1);
  const asks = heard.length
    ? [{ pressing: pressing.id }, ...heard.map((file) => ({ pressing: pressing.id, number: file.number }))]
    : [];
  const [extras, setExtras] = useState<VoiceRequest[]>([]);
  const opening = useDesk(asks.length ? [...asks, ...extras].slice(0, MOST_VOICES) : []);
  const { control } = opening;
  const compare = useCompareWithMix(pressing.id);
  const slot = control?.choice.slot ?? 0;
  const fileOf = (voice: DeskVoice | undefined) =>
    voice?.pressing === pressing.id ? heard.find((file) => file.number === voice.number) : undefined;
  const chosen = fileOf(control?.desk.voices[slot]);
  const held = useHeld(pressing.id, chosen?.number ?? -1);
  const passages = usePassages(
    control,
    held.data?.report ?? null,
    chosen ? () => compare.mutate(chosen.number) : null,
  );
  const [blind, setBlind] = useState(false);
  // During a blind test, all other controls and keys of the listening desk are off.
  useDeskKeys(blind ? null : control, passages, () => control && heard.length > 0 && setBlind(true));
  const tests = useQuery({
    queryKey: ["pressings", pressing.id, "blind-tests"],
    queryFn: () => api.blindTests(pressing.id),
  });
  const mix = useQuery({
    queryKey: ["shelf", "mix", pressing.mix_id],
    queryFn: () => api.mix(pressing.mix_id ?? 0),
    enabled: pressing.mix_id !== null,
    retry: false,
  });
  const briefs = useQuery({ queryKey: ["briefs"], queryFn: api.briefs });
  const briefOf = (file: PressedFile) => briefs.data?.find((brief) => brief.id === file.brief)?.title ?? "";
  const looks = held.data?.report?.looks;
  const voice = control?.desk.voices[slot];
  const beside = voice?.mix_id ?? null;
  const timeline = control?.desk.frames ?? 1;
  const paintOver = useCallback(
    (canvas: HTMLCanvasElement) => {
      if (looks && voice)
        drawFileWave(canvas, looks, { start: voice.start_frame, frames: voice.frames, timeline });
    },
    [looks, voice, timeline],
  );
  const moreOf = (one: DeskVoice) => {
    const file = fileOf(one);
    if (!file) return {};
    const below = (
      <>
        <small>{briefOf(file)}</small>
        <Strip {...{ pressing, file, mode }} />
      </>
    );
    return { mark: <VerdictMark verdict={file.verdict} />, below };
  };
  if (blind && control) {
    return (
      <BlindTest
        control={control}
        passages={passages}
        mix={mix.data ?? null}
        mode={mode}
        close={() => setBlind(false)}
      />
    );
  }
  return (
    <>
      <Notes pressing={pressing} />
      <DeskRoom
        opening={opening}
        passages={passages}
        mix={mix.data ?? null}
        mode={mode}
        extras={extras}
        setExtras={setExtras}
        without={{ pressing: pressing.id, mix: pressing.mix_id }}
        more={moreOf}
        shows={chosen && looks ? `${chosen.name} over the mix` : pressing.mix_title}
        paintOver={looks && voice ? paintOver : undefined}
        blind={heard.length > 0 ? () => setBlind(true) : null}
      >
        {beside && mix.data && <BesideMix mix={mix.data} otherId={beside} mode={mode} />}
        {inOrder(pressing.files, chosen).map((file) => (
          <FileProof
            key={file.path}
            pressing={pressing}
            file={file}
            mode={mode}
            brief={briefOf(file)}
            chosen={file === chosen}
            among={chosen !== undefined}
            hear={
              control && heard.includes(file)
                ? () => {
                    const slot = control.desk.voices.findIndex((one) => fileOf(one) === file);
                    control.choose({ slot, hearing: "whole" });
                    control.player.play();
                  }
                : null
            }
          />
        ))}
        {tests.data?.map((test) => (
          <BlindResult key={test.id} test={test} />
        ))}
      </DeskRoom>
    </>
  );
}

/** The file that is heard comes first. */
const inOrder = (files: readonly PressedFile[], first: PressedFile | undefined) =>
  first ? [first, ...files.filter((file) => file !== first)] : files;
