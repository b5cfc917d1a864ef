import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { ApiError, api, type DeskView, deskBlocksUrl, type VoiceRequest } from "../../api/client";
import { player as cutPlayer } from "../sound/player";
import { type Choice, FIRST_CHOICE, weightsOf } from "./sound/choice";
import { Player, type Snapshot } from "./sound/Player";

/** An open listening desk: its sources, its player, and the selection. */
export interface DeskControl {
  readonly desk: DeskView;
  readonly player: Player;
  readonly snapshot: Snapshot;
  readonly choice: Choice;
  readonly choose: (change: Partial<Choice>) => void;
}

export interface Opening {
  readonly control: DeskControl | null;
  readonly sentence: string;
  readonly reopen: () => void;
}

const NOTHING = () => () => {};
const NO_SNAPSHOT = () => null;

/** Opens a listening desk with these sources while the page is open, and again when the sources change. */
export function useDesk(asked: readonly VoiceRequest[]): Opening {
  const [opened, setOpened] = useState<{ desk: DeskView; player: Player } | null>(null);
  const [sentence, setSentence] = useState("");
  const [attempt, setAttempt] = useState(0);
  const [choice, setChoice] = useState(FIRST_CHOICE);
  // A missing mix is omitted: its files can still be compared with each other.
  const [withoutMix, setWithoutMix] = useState(false);
  const asks = withoutMix ? asked.slice(1) : asked;
  const place = useRef({ key: "", frame: 0 });
  const key = JSON.stringify(asks);
  useEffect(() => {
    const wanted: VoiceRequest[] = JSON.parse(key);
    if (!wanted.length) return;
    let left = false;
    let mine: { desk: DeskView; player: Player } | null = null;
    // With the same mix, position and selection stay.
    const first = JSON.stringify(wanted[0]);
    if (place.current.key !== first) setChoice(FIRST_CHOICE);
    else setChoice((last) => (last.slot < wanted.length ? last : { ...last, slot: 0 }));
    api.openDesk(wanted).then(
      (desk) => {
        if (left) {
          api.closeDesk(desk.id).catch(() => {});
          return;
        }
        const { rate_hz: rateHz, frames } = desk;
        const url = deskBlocksUrl(desk.id);
        const from = place.current.key === first ? place.current.frame : 0;
        mine = { desk, player: new Player({ url, rateHz, frames, voices: desk.voices.length }, from) };
        if (!withoutMix) setSentence("");
        setOpened(mine);
      },
      (error: Error) => {
        if (left) return;
        setSentence(error.message);
        if (error instanceof ApiError && error.code === "desk.no-mix" && wanted.length > 1)
          setWithoutMix(true);
      },
    );
    return () => {
      left = true;
      if (!mine) return;
      place.current = { key: first, frame: mine.player.place() };
      mine.player.close();
      // The server closes a listening desk after inactivity.
      api.closeDesk(mine.desk.id).catch(() => {});
      setOpened(null);
    };
  }, [key, attempt, withoutMix]);

  const player = opened?.player ?? null;
  const read = useQuery({
    queryKey: ["desks", opened?.desk.id],
    queryFn: () => api.desk(opened?.desk.id ?? ""),
    enabled: opened !== null,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const desk = read.data ?? opened?.desk ?? null;
  const snapshot = useSyncExternalStore(player?.subscribe ?? NOTHING, player?.snapshot ?? NO_SNAPSHOT);
  const voices = desk?.voices;
  useEffect(() => {
    if (!player || !voices) return;
    const { weights, guarded } = weightsOf(voices, choice);
    player.weigh(weights, guarded);
  }, [player, voices, choice]);
  // Only one thing of a page is heard at a time.
  const wanted = snapshot?.wanted ?? false;
  useEffect(() => {
    if (wanted) cutPlayer.stop();
  }, [wanted]);
  const reopen = useCallback(() => setAttempt((last) => last + 1), []);
  const gone = snapshot?.status === "gone";
  useEffect(() => {
    if (gone) reopen();
  }, [gone, reopen]);
  const choose = useCallback((change: Partial<Choice>) => setChoice((last) => ({ ...last, ...change })), []);
  const control = desk && player && snapshot ? { desk, player, snapshot, choice, choose } : null;
  return { control, sentence, reopen };
}
