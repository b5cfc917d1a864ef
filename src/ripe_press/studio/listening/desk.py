"""Listening desks: mix and files as sources on one timeline, in blocks, read by processes of their own.

One answer has the audio of all sources for the same time, so they stay in step. Each source has its own process, which
keeps its file open; a source that fails is silent, with its reason, and the others continue.
"""

import secrets
import threading
import time
from collections.abc import Sequence
from concurrent.futures import Future
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Literal

from ripe_press.core.errors import BadInput, Cancelled, NotFound, RipePressError
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.listening.spool import spooled_frames
from ripe_press.core.listening.voice import SIDES
from ripe_press.core.proof.against.passage import PassageLook
from ripe_press.studio.error_text import sentence_of
from ripe_press.studio.jobs import Events, JobFolder, WorkerPool
from ripe_press.studio.listening.desk_jobs import code_in_job, let_go, look_at_passage, read_stretches, spool_in_job
from ripe_press.studio.listening.sources import DeskSources, DeskVoice, SourceFinder, SourceRequest, needs_spool

HANDS = 2
MOST_PASSAGE_S = 60
IDLE_SECONDS = 600.0
_MOST_DESKS = 16
_BYTES = 4

VoiceState = Literal["ready", "decoding", "failed"]


@dataclass(frozen=True, slots=True)
class Health:
    """State of a source: its decoded share, from 0 to 1, and the reason if it failed."""

    state: VoiceState = "ready"
    part: float = 1.0
    sentence: str = ""


@dataclass(slots=True)
class Desk:
    """An open listening desk."""

    id: str
    cast: DeskSources
    job: JobFolder
    spooling: dict[int, Future[None]]
    failed: dict[int, str] = field(default_factory=dict)
    asked_at: float = field(default_factory=time.monotonic)

    @property
    def decoding(self) -> bool:
        """Whether a source is still being decoded."""
        return any(not one.done() for one in self.spooling.values())

    def health(self, slot: int) -> Health:
        """Return the state of one of its sources."""
        if slot in self.failed:
            return Health("failed", 0.0, self.failed[slot])
        spooling = self.spooling.get(slot)
        if spooling is None:
            return Health()
        if not spooling.done():
            voice = self.cast.voices[slot].voice
            facts = voice.source.facts
            done = spooled_frames(Path(voice.spool), facts.channels) / max(1, facts.frames)
            doing = "decoded" if done or not self.cast.voices[slot].codes else "coded"
            return Health("decoding", min(1.0, done), f"Being {doing}; the rest is silent until then.")
        error = None if spooling.cancelled() else spooling.exception()
        return Health("failed", 0.0, sentence_of(error)) if error and not isinstance(error, Cancelled) else Health()


class Desks:
    """Opens listening desks and reads their sources; one without requests for ten minutes is closed."""

    def __init__(
        self, casting: SourceFinder, passing: Path, decoding: WorkerPool, comparing: WorkerPool, events: Events
    ) -> None:
        self._casting, self._passing, self._events = casting, passing, events
        self._decoding, self._comparing = decoding, comparing
        # Processes start with the first listening desk.
        self._hands = [WorkerPool(1, f"desk-{number}") for number in range(HANDS)]
        self._open: dict[str, Desk] = {}
        self._lock = threading.Lock()

    @property
    def busy(self) -> bool:
        """Return whether a source of any listening desk is being decoded."""
        with self._lock:
            return any(one.decoding for one in self._open.values())

    def open(self, asked: Sequence[SourceRequest]) -> Desk:
        """Open a listening desk with these sources. Raises: as `Casting.cast`."""
        cast = self._casting.cast(asked)
        job = JobFolder.make(self._passing)
        spooling: dict[int, Future[None]] = {}
        failed: dict[int, str] = {}
        voices: list[DeskVoice] = []
        for slot, one in enumerate(cast.voices):
            voice, made = one.voice, None
            try:
                made = self._decoded(one, job, slot)
            except (RipePressError, OSError) as error:
                # It is silent and says why, as one that goes bad later; the others are heard.
                failed[slot] = sentence_of(error)
            if made is not None:
                spooling[slot], target = made
                spooling[slot].add_done_callback(lambda _: self._events.publish("desks"))
                voice = replace(voice, spool=target)
            voices.append(replace(one, voice=voice))
        desk = Desk(secrets.token_urlsafe(16), replace(cast, voices=tuple(voices)), job, spooling, failed)
        for hand, reads in enumerate(self._hands):
            # A long MP3 is scanned at its first far seek: now, not during playback.
            far = [one.voice for slot, one in enumerate(desk.cast.voices) if slot % HANDS == hand]
            reads.submit(read_stretches, far, desk.cast.frames - 1, 1)
        with self._lock:
            self._open[desk.id] = desk
            now = time.monotonic()
            left = sorted(self._open.values(), key=lambda one: one.asked_at)
            gone = [one for one in left[:-1] if now - one.asked_at > IDLE_SECONDS or len(left) > _MOST_DESKS][:8]
        for idle in gone:
            self.close_desk(idle.id)
        self._events.publish("desks")
        return desk

    def _decoded(self, one: DeskVoice, job: JobFolder, slot: int) -> tuple[Future[None], str] | None:
        """The function that decodes a source to plain samples, and their path; None where it is read as it is."""
        target, facts = str(job.path / f"voice-{slot}"), one.voice.source.facts
        if one.codes is not None:
            coded = f"{target}{CAPABILITIES[one.codes.codec.container].suffix}"
            return self._decoding.submit(code_in_job, one.codes, coded, target, str(job.path)), target
        if needs_spool(one.voice):
            return self._decoding.submit(spool_in_job, facts.path, facts.downmix, target, str(job.path)), target
        return None

    def desk(self, desk_id: str) -> Desk:
        """Return an open listening desk. Raises: NotFound ``desk.gone``."""
        with self._lock:
            desk = self._open.get(desk_id)
            if desk is None:
                message = "Listening desk closed after inactivity. Reopen it."
                raise NotFound("desk.gone", message)
            desk.asked_at = time.monotonic()
            return desk

    def blocks(self, desk_id: str, start_frame: int, frames: int) -> bytes:
        """A stretch of all sources, slot after slot: always ``voices·frames`` pairs of 32-bit floats.

        Raises: NotFound ``desk.gone``; BadInput ``desk.stretch`` for more than a second at once.
        """
        desk = self.desk(desk_id)
        return b"".join(self.stretches(desk, range(len(desk.cast.voices)), start_frame, frames))

    def stretches(self, desk: Desk, slots: Sequence[int], start_frame: int, frames: int) -> list[bytes]:
        """The same, source by source, for some of them. Raises: BadInput ``desk.stretch``."""
        if start_frame < 0 or not 1 <= frames <= desk.cast.rate_hz:
            message = f"Use blocks of 1 to {desk.cast.rate_hz:,} samples, from sample 0."
            raise BadInput("desk.stretch", message, start_frame=start_frame, frames=frames)
        shares: dict[int, list[int]] = {}
        for slot in slots:
            shares.setdefault(slot % HANDS, []).append(slot)
        asked = {
            hand: self._hands[hand].submit(
                read_stretches, [desk.cast.voices[slot].voice for slot in share], start_frame, frames
            )
            for hand, share in shares.items()
        }
        found: dict[int, bytes] = {}
        for hand, share in shares.items():
            try:
                pieces = asked[hand].result()
            except Exception as error:
                pieces = [(b"", sentence_of(error))] * len(share)
            for slot, (data, sentence) in zip(share, pieces, strict=True):
                found[slot] = data or bytes(frames * SIDES * _BYTES)
                self._note(desk, slot, sentence)
        return [found[slot] for slot in slots]

    def look(self, desk_id: str, slot: int, start_frame: int, end_frame: int) -> PassageLook:
        """Spectra of a passage of a source and of the mix.

        Raises: NotFound ``desk.gone``; BadInput ``desk.passage``; whatever reading raises.
        """
        desk = self.desk(desk_id)
        voices, most = desk.cast.voices, MOST_PASSAGE_S * desk.cast.rate_hz
        if not 0 < slot < len(voices) or not 0 <= start_frame < end_frame or end_frame - start_frame > most:
            message = f"Choose one source and a passage of max {MOST_PASSAGE_S} s."
            raise BadInput("desk.passage", message, slot=slot, start_frame=start_frame, end_frame=end_frame)
        both = voices[0].voice, voices[slot].voice
        return self._comparing.submit(look_at_passage, both, voices[slot].gain_db, start_frame, end_frame).result()

    def _note(self, desk: Desk, slot: int, sentence: str) -> None:
        before = desk.failed.get(slot, "")
        if sentence:
            desk.failed[slot] = sentence
        else:
            desk.failed.pop(slot, None)
        if sentence != before:
            self._events.publish("desks")

    def close_desk(self, desk_id: str) -> None:
        """Close a listening desk and its files; closing it again has no effect."""
        with self._lock:
            desk = self._open.pop(desk_id, None)
        if desk is None:
            return
        desk.job.cancel()
        for hand in self._hands:
            hand.submit(let_go, *(one.voice for one in desk.cast.voices))
        for one in desk.spooling.values():
            one.cancel()
        left = [one for one in desk.spooling.values() if not one.done()]
        if left:
            left[-1].add_done_callback(lambda _: desk.job.clear())
        else:
            desk.job.clear()

    def shutdown(self) -> None:
        """Ends the processes."""
        for hand in self._hands:
            hand.shutdown(wait=False, cancel_futures=True)
