"""Sources of a listening desk: mixes of the shelf and recorded files, aligned on one timeline."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from ripe_press.core.engine.resolve import mix_of_file
from ripe_press.core.errors import BadInput, NotFound, RipePressError
from ripe_press.core.formats.capabilities import CAPABILITIES, Container, Mode
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.ladder import rung_path
from ripe_press.core.listening.passages import DeskPassage, passages
from ripe_press.core.listening.playback import Playback, plays_at
from ripe_press.core.listening.voice import Voice
from ripe_press.core.requests.document import bench_of, document_from
from ripe_press.core.sheet.file_report import FileReport
from ripe_press.core.sources.source import AudioSource, enters_anywhere
from ripe_press.core.stations import Path as StationPath, Range
from ripe_press.core.units import finite, frames_after_conversion
from ripe_press.core.words import quoted
from ripe_press.store.mixes import StoredMix
from ripe_press.store.pressings import StoredPressing
from ripe_press.studio.briefs import BriefBook
from ripe_press.studio.planning import AnswerCache, KeptKnowledge, Knowledge, files_pressed, resolved_files
from ripe_press.studio.pressing import PressRoom
from ripe_press.studio.shelf import MixViews, Shelf, Versions, document_for, is_there

MOST_VOICES = 24
_BOTH_SIDES_DB = 10 * math.log10(2)
"""What has one channel is heard from both sides: twice the power that is measured of it (BS.1770-5 adds channels)."""


@dataclass(frozen=True, slots=True)
class MixSource:
    """A mix of the shelf; without a number of a version it is the one in use."""

    mix_id: int
    version: int | None = None


@dataclass(frozen=True, slots=True)
class PressedSource:
    """A file of the record; without a number it is the mix that the pressing was made of."""

    pressing: int
    number: int | None = None


@dataclass(frozen=True, slots=True)
class RungSource:
    """A setting of the comparison: a file of a mix's ticket with another codec and bit rate."""

    mix_id: int
    file_id: str
    container: Container
    mode: Mode | None
    value: int | None
    """Its bit rate in kbit/s, or its quality, as ``mode`` has it."""


SourceRequest = MixSource | PressedSource | RungSource
SourceKind = Literal["mix", "file", "rung"]


@dataclass(frozen=True, slots=True)
class DeskVoice:
    """A source of a listening desk, with its facts.

    ``gain_db`` is what the press turned it up by, and ``louder_db`` how much louder it is than the mix where both
    sound; ``loudness_lufs`` and ``true_peak_dbtp`` are None where they are not measured.
    """

    kind: SourceKind
    title: str
    voice: Voice
    asked: SourceRequest
    gain_db: float = 0.0
    louder_db: float = 0.0
    loudness_lufs: float | None = None
    true_peak_dbtp: float | None = None
    mix_path: str = ""
    """Of the mix that it is, or that it was made of."""
    codes: StationPath | None = None
    """What has to be coded before it can be heard."""

    @property
    def plays(self) -> tuple[Playback, ...]:
        """What players make of it at each usual level; nothing where its loudness is not known."""
        return () if self.loudness_lufs is None else plays_at(self.loudness_lufs, self.true_peak_dbtp)


@dataclass(frozen=True, slots=True)
class DeskSources:
    """All sources of a listening desk, the mix first, at the rate of the mix; its passages are where all of them have
    audio.
    """

    rate_hz: int
    frames: int
    voices: tuple[DeskVoice, ...]
    passages: tuple[DeskPassage, ...]


class SourceFinder:
    """Finds requested sources, and aligns them with the mix."""

    def __init__(
        self, shelf: Shelf, versions: Versions, mix_views: MixViews, press_room: PressRoom, briefs: BriefBook
    ) -> None:
        self._shelf, self._versions, self._mix_views = shelf, versions, mix_views
        self._press_room, self._briefs = press_room, briefs
        self._cuts, self._contents = AnswerCache(), AnswerCache()

    def cast(self, asked: Sequence[SourceRequest]) -> DeskSources:
        """The sources in the requested order; the others are aligned with the first.

        Raises: NotFound for a missing file or mix; BadInput ``desk.voices``; whatever opening a file raises.
        """
        if not 1 <= len(asked) <= MOST_VOICES:
            message = f"Use 1 to {MOST_VOICES} sources, not {len(asked)}."
            raise BadInput("desk.voices", message, voices=len(asked))
        first = self._of(asked[0], 0)
        desk_hz = first.voice.source.facts.rate_hz
        others = [_beside(first, self._of(one, desk_hz)) for one in asked[1:]]
        voices = [replace(first, voice=replace(first.voice, desk_hz=desk_hz)), *others]
        # A file that begins with silence begins before the mix does.
        early = min(0, *(one.voice.offset_frames for one in voices))
        voices = [_moved(one, -early) for one in voices]
        ends = [one.voice.offset_frames + one.voice.frames for one in voices]
        start, end = max(one.voice.offset_frames for one in voices), min(ends)
        if start >= end:
            start, end = voices[0].voice.offset_frames, ends[0]
        known = self._known(asked[0])
        origin = voices[0].voice.offset_frames
        first_frame, last_frame = start - origin, end - origin
        if known:
            # Noise before and after the programme is not a quiet passage.
            sounding = (frames_after_conversion(one, known.facts.rate_hz, desk_hz) for one in known.sounding().frames)
            begins, ends_at = sounding
            if max(first_frame, begins) < min(last_frame, ends_at):
                first_frame, last_frame = max(first_frame, begins), min(last_frame, ends_at)
        found = passages(known.loudness() if known else None, desk_hz, first_frame, last_frame)
        moved = (replace(one, start_frame=one.start_frame + origin, end_frame=one.end_frame + origin) for one in found)
        return DeskSources(desk_hz, max(ends), tuple(voices), tuple(moved))

    def _of(self, asked: SourceRequest, desk_hz: int) -> DeskVoice:
        if isinstance(asked, MixSource):
            return self._mix(asked, desk_hz)
        if isinstance(asked, RungSource):
            return self._counts(asked, desk_hz)
        pressing = self._press_room.pressing(asked.pressing)
        if asked.number is None:
            return self._pressed_mix(pressing, asked, desk_hz)
        return self._file(pressing, asked.number, asked, desk_hz)

    def _mix(self, asked: MixSource, desk_hz: int) -> DeskVoice:
        used = self._shelf.mix(asked.mix_id)
        mix = used if asked.version is None else self._versions.version(used.id, asked.version)
        if mix.version == used.version:
            return _mix_voice(mix.title, self._mix_views.known(mix).facts, asked, desk_hz, mix.measures)
        if not is_there(mix):
            message = (
                f"Version {mix.version} of {quoted(mix.title)} is missing or overwritten. "
                "Only its pressed files can be played."
            )
            raise NotFound("desk.no-mix", message, path=mix.path)
        title = f"{mix.title}, version {mix.version}"
        voice = _mix_voice(title, self._mix_views.known(mix).facts, asked, desk_hz, mix.measures)
        return _moved(voice, self._in_step(mix, desk_hz or voice.voice.source.facts.rate_hz))

    def _in_step(self, mix: StoredMix, desk_hz: int) -> int:
        """By how much a version is moved so that it is heard at the same beat as the one in use."""
        used = self._shelf.mix(mix.id)
        if mix.version == used.version:
            return 0
        return -frames_after_conversion(self._versions.shift_frames(used, mix), mix.rate_hz, desk_hz)

    def _pressed_mix(self, pressing: StoredPressing, asked: PressedSource, desk_hz: int) -> DeskVoice:
        if len(pressing.ticket.get("mixes", ())) > 1:
            message = f"{quoted(pressing.mix_title)} was pressed from several mixes. Only its files can be played."
            raise NotFound("desk.no-mix", message)
        mix = self._mix_of(pressing)
        facts = self._mix_views.known(mix).facts if mix else document_from(pressing.ticket).mixes[0].source.facts
        if not Path(facts.path).is_file():
            message = f"The mix {quoted(pressing.mix_title)} is missing. Only its pressed files can be played."
            raise NotFound("desk.no-mix", message, path=facts.path)
        voice = _mix_voice(pressing.mix_title, facts, asked, desk_hz, mix.measures if mix else {})
        return _moved(voice, self._in_step(mix, desk_hz or facts.rate_hz)) if mix else voice

    def _file(self, pressing: StoredPressing, number: int, asked: PressedSource, desk_hz: int) -> DeskVoice:
        report = self._press_room.file(pressing.id, number)
        facts = facts_of_report(report)
        cut, of = self._cuts.of(pressing.id, lambda: _cuts_of(pressing))[number]
        mix_facts = of.facts
        begins, mix_hz = cut.start_frame - cut.led_frames, mix_facts.rate_hz
        offset = frames_after_conversion(begins, mix_hz, desk_hz or mix_hz)
        measured = report.measured
        gain = measured.gain_db or 0.0
        heard, peak = _as_heard(measured.integrated_lufs, facts.channels), measured.true_peak_dbtp
        louder, mix = gain, self._mix_of(pressing)
        if mix:
            offset += self._in_step(mix, desk_hz or mix_hz)
            whole = self._mix_views.known(mix)
            of_mix = _as_heard(finite(whole.signal(cut.start_frame, cut.read_end).integrated_lufs), mix.channels)
            # A figure that was not measured on the file is computed from its source and its gain: a stem is not the
            # mix.
            made_of = _known_of(whole, of)
            if made_of and (heard is None or peak is None):
                signal = made_of.signal(cut.start_frame, cut.read_end)
                before = _as_heard(finite(signal.integrated_lufs), made_of.facts.channels)
                heard = before + gain if heard is None and before is not None else heard
                peak = signal.true_peak_dbtp + gain if peak is None else peak
            if of_mix is not None and heard is not None:
                louder = heard - of_mix
        return DeskVoice(
            "file", Path(report.path).name, Voice(_source(facts), desk_hz or facts.rate_hz, offset), asked, gain,
            louder, heard, None if peak is None else finite(peak), mix_facts.path,
        )  # fmt: skip

    def _counts(self, asked: RungSource, desk_hz: int) -> DeskVoice:
        mix = self._shelf.mix(asked.mix_id)
        known = self._mix_views.known(mix)
        document = document_for(self._mix_views, mix, bench_of(mix.bench), self._briefs.all())
        files, _ = resolved_files(document, lambda _: known)
        file = next((one for one in files if one.planned.id == asked.file_id), None)
        if file is None:
            message = "Delivery not found on this ticket."
            raise NotFound("delivery.unknown", message, file=asked.file_id)
        path = rung_path(file.planned.wish, file.mix, asked.container, asked.mode, asked.value)
        codec, cut = path.codec, path.cut
        facts = SourceFacts("", codec.container, codec.container, codec.rate_hz, codec.channels, codec.frames, None)
        begins, mix_hz = cut.start_frame - cut.led_frames, known.facts.rate_hz
        voice = Voice(
            _source(facts), desk_hz or codec.rate_hz, frames_after_conversion(begins, mix_hz, desk_hz or mix_hz)
        )
        signal = file.known.signal(cut.start_frame, cut.read_end)
        heard = _as_heard(finite(signal.integrated_lufs), file.known.facts.channels)
        title = f"{CAPABILITIES[asked.container].title}, {codec.coding}"
        return DeskVoice("rung", title, voice, asked, 0.0, 0.0, heard, None, known.facts.path, path)

    def _mix_of(self, pressing: StoredPressing) -> StoredMix | None:
        if pressing.mix_id is None:
            return None
        content = self._contents.of(pressing.id, lambda: _content_of(pressing))
        return self._versions.pressed_of(pressing.mix_id, content)

    def _known(self, asked: SourceRequest) -> KeptKnowledge | None:
        if isinstance(asked, MixSource):
            used = self._shelf.mix(asked.mix_id)
            return self._mix_views.known(
                used if asked.version is None else self._versions.version(used.id, asked.version)
            )
        if isinstance(asked, RungSource) or asked.number is not None:
            return None
        mix = self._mix_of(self._press_room.pressing(asked.pressing))
        return self._mix_views.known(mix) if mix else None


def _content_of(pressing: StoredPressing) -> str:
    """The sum of the content of the one mix that a pressing was made of; empty where there are several."""
    mixes = document_from(pressing.ticket).mixes
    return mixes[0].source.facts.content_sum if len(mixes) == 1 else ""


def facts_of_report(report: FileReport) -> SourceFacts:
    """What the record knows of a pressed file, as facts."""
    return SourceFacts(
        report.path, report.container, report.codec, report.sample_rate_hz, report.channels, report.frames,
        report.bit_depth,
    )  # fmt: skip


def needs_spool(voice: Voice) -> bool:
    """Return whether it must be decoded before playback. Raises: as `SourceReader`."""
    facts = voice.source.facts
    return not enters_anywhere(Path(facts.path), facts.downmix)


def _source(facts: SourceFacts) -> AudioSource:
    return mix_of_file(facts, "").source


def _mix_voice(
    title: str, facts: SourceFacts, asked: SourceRequest, desk_hz: int, measures: dict[str, Any]
) -> DeskVoice:
    voice = Voice(_source(facts), desk_hz or facts.rate_hz)
    heard = _as_heard(measures.get("integrated_lufs"), facts.channels)
    return DeskVoice("mix", title, voice, asked, 0.0, 0.0, heard, measures.get("true_peak_dbtp"), facts.path)


def _beside(first: DeskVoice, one: DeskVoice) -> DeskVoice:
    """A source of another mix is matched to the first by its whole loudness."""
    if one.mix_path == first.mix_path or one.loudness_lufs is None or first.loudness_lufs is None:
        return one
    return replace(one, louder_db=one.loudness_lufs - first.loudness_lufs)


def _as_heard(integrated_lufs: float | None, channels: int) -> float | None:
    return None if integrated_lufs is None else integrated_lufs + (_BOTH_SIDES_DB if channels == 1 else 0.0)


def _cuts_of(pressing: StoredPressing) -> list[tuple[Range, AudioSource]]:
    """The range that each file was made of, and what it is a range of."""
    paths = [one.planned.path for one in files_pressed(document_from(pressing.ticket))]
    return [(path.cut, path.source.of) for path in paths]


def _known_of(whole: KeptKnowledge, source: AudioSource) -> Knowledge | None:
    """Measurements of a file's source; None where that is still being measured, or gone."""
    if source.files == whole.source.files:
        return whole
    try:
        return whole.part(source)
    except RipePressError:
        return None


def _moved(one: DeskVoice, frames: int) -> DeskVoice:
    return replace(one, voice=replace(one.voice, offset_frames=one.voice.offset_frames + frames))
