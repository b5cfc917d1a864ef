"""Routes of the listening desk: sources on one timeline, and their audio block by block."""

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import Field

from ripe_press.api.briefs.views import Schema
from ripe_press.api.deps import TheStudio
from ripe_press.core.formats.capabilities import Container, Mode
from ripe_press.core.listening.passages import PassageName
from ripe_press.core.listening.playback import Playback
from ripe_press.core.proof.hearing.opinion import Prediction
from ripe_press.core.units import finite
from ripe_press.studio.listening import (
    MOST_VOICES,
    Desk,
    DeskVoice,
    MixSource,
    PressedSource,
    RungSource,
    SourceKind,
    SourceRequest,
    VoiceState,
)

router = APIRouter(prefix="/api/desks", tags=["listening desk"])

SOUND = "application/octet-stream"
UNKEPT = {"Cache-Control": "no-store"}


class RungRequest(Schema):
    """A setting of the bit-rate ladder for a file of the ticket of a mix."""

    file: str
    container: Container
    mode: Mode | None = None
    kbps: int | None = None
    coding_quality: int | None = None


class VoiceRequest(Schema):
    """A mix of the shelf, a ``rung`` of its ladder, or a pressing.

    Of a pressing one of its files, or without ``number`` the mix that it was made of.
    """

    mix_id: int | None = None
    version: int | None = None
    """Of the mix, where another than the one in use is to be heard."""
    rung: RungRequest | None = None
    pressing: int | None = None
    number: int | None = None

    def asked(self) -> SourceRequest:
        """As the studio asks for it."""
        if self.pressing is not None:
            return PressedSource(self.pressing, self.number)
        mix, rung = self.mix_id or 0, self.rung
        if rung is not None:
            value = rung.coding_quality if rung.kbps is None else rung.kbps
            return RungSource(mix, rung.file, rung.container, rung.mode, value)
        return MixSource(mix, self.version)


class DeskRequest(Schema):
    """Who is to be heard; the first is the mix that the others lie over."""

    voices: Annotated[list[VoiceRequest], Field(min_length=1, max_length=MOST_VOICES)]


class PlaybackView(Schema):
    """At a level: the gain that players apply, by how much they then hold peaks down, and both in words."""

    level_lufs: float
    gain_db: float
    limited_db: float | None
    sentence: str


class VoiceView(Schema):
    """A source of the listening desk: position on the timeline, levels and state.

    ``gain_db`` is the gain of the pressing, ``louder_db`` its loudness relative to the mix, ``loudness_lufs`` its
    playback loudness; null if not measured.
    """

    slot: int
    kind: SourceKind
    title: str
    mix_id: int | None
    version: int | None
    pressing: int | None
    number: int | None
    rate_hz: int
    bit_depth: int | None
    codec: str
    channels: int
    start_frame: int
    frames: int
    gain_db: float
    louder_db: float
    loudness_lufs: float | None
    true_peak_dbtp: float | None
    plays: list[PlaybackView]
    state: VoiceState
    part: float
    sentence: str


class PassageOfDesk(Schema):
    """Frames of the timeline to which one key goes."""

    name: PassageName
    start_frame: int
    end_frame: int


class DeskView(Schema):
    """An open listening desk. All frames are those of its timeline, at the rate of the mix."""

    id: str
    rate_hz: int
    frames: int
    voices: list[VoiceView]
    passages: list[PassageOfDesk]


@router.post("", status_code=201)
def open_desk(wish: DeskRequest, studio: TheStudio) -> DeskView:
    """Open a listening desk; formats without random access are decoded first."""
    return _view(studio.desks.open([one.asked() for one in wish.voices]))


@router.get("/{desk_id}")
def read_desk(desk_id: str, studio: TheStudio) -> DeskView:
    """The state of a listening desk."""
    return _view(studio.desks.desk(desk_id))


@router.get("/{desk_id}/blocks", response_class=Response)
def read_blocks(desk_id: str, start: int, frames: int, studio: TheStudio) -> Response:
    """A block of every source, slot by slot, as interleaved little-endian 32-bit floats, two channels.

    Always sources · frames · 8 bytes; zeros outside a source and for failed ones.
    """
    return Response(studio.desks.blocks(desk_id, start, frames), media_type=SOUND, headers=UNKEPT)


class PassageLookView(Schema):
    """A passage of a source compared with the mix: spectra as (Hz, dB), difference in dBFS (null: none), prediction."""

    mix: list[tuple[float, float]]
    file: list[tuple[float, float]]
    difference: list[tuple[float, float]]
    masked: list[tuple[float, float]]
    rms_dbfs: float | None
    peak_dbfs: float | None
    prediction: Prediction
    sentence: str


@router.get("/{desk_id}/passage")
def look_at_passage(desk_id: str, slot: int, start: int, end: int, studio: TheStudio) -> PassageLookView:
    """Compare a passage of a source with the level-matched mix."""
    found = studio.desks.look(desk_id, slot, start, end)
    return PassageLookView(
        mix=list(found.mix), file=list(found.file), difference=list(found.difference), masked=list(found.masked),
        rms_dbfs=finite(found.rms_dbfs), peak_dbfs=finite(found.peak_dbfs), prediction=found.opinion.prediction,
        sentence=found.opinion.sentence,
    )  # fmt: skip


@router.delete("/{desk_id}", status_code=204)
def close_desk(desk_id: str, studio: TheStudio) -> None:
    """Closes it."""
    studio.desks.close_desk(desk_id)


def _view(desk: Desk) -> DeskView:
    return DeskView(
        id=desk.id, rate_hz=desk.cast.rate_hz, frames=desk.cast.frames,
        voices=[_voice(desk, slot, one) for slot, one in enumerate(desk.cast.voices)],
        passages=[
            PassageOfDesk(name=one.name, start_frame=one.start_frame, end_frame=one.end_frame)
            for one in desk.cast.passages
        ],
    )  # fmt: skip


def _voice(desk: Desk, slot: int, one: DeskVoice) -> VoiceView:
    facts, health, asked = one.voice.source.facts, desk.health(slot), one.asked
    file = asked if isinstance(asked, PressedSource) else None
    return VoiceView(
        slot=slot, kind=one.kind, title=one.title, mix_id=asked.mix_id if isinstance(asked, MixSource) else None,
        version=asked.version if isinstance(asked, MixSource) else None,
        pressing=file.pressing if file else None, number=file.number if file else None, rate_hz=facts.rate_hz,
        bit_depth=facts.bit_depth, codec=facts.codec, channels=facts.channels, start_frame=one.voice.offset_frames,
        frames=one.voice.frames, gain_db=one.gain_db, louder_db=one.louder_db,
        loudness_lufs=one.loudness_lufs,
        true_peak_dbtp=one.true_peak_dbtp,
        plays=[_playback(each) for each in one.plays], state=health.state, part=health.part, sentence=health.sentence,
    )  # fmt: skip


def _playback(one: Playback) -> PlaybackView:
    return PlaybackView(
        level_lufs=one.level_lufs, gain_db=one.gain_db, limited_db=one.limited_db, sentence=one.sentence
    )  # fmt: skip
