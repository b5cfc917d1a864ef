"""Jobs of a listening desk's processes: read stretches of sources, and decode codecs without exact seeking."""

from collections import OrderedDict
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from ripe_press.core.errors import RipePressError
from ripe_press.core.listening.spool import spool
from ripe_press.core.listening.voice import Voice, VoiceReader
from ripe_press.core.stations import Path as StationPath
from ripe_press.core.units import linear_from_db
from ripe_press.studio.jobs import JobFolder

if TYPE_CHECKING:
    from ripe_press.core.proof.against.passage import PassageLook

_MOST_OPEN = 48
_open: OrderedDict[Voice, VoiceReader] = OrderedDict()
"""Per process: an opened source stays open for the next block."""


def read_stretches(voices: Sequence[Voice], start_frame: int, frames: int) -> list[tuple[bytes, str]]:
    """A stretch of each source: 32-bit floats, both sides interleaved; no bytes and a sentence where one failed."""
    return [_stretch(voice, start_frame, frames) for voice in voices]


def _stretch(voice: Voice, start_frame: int, frames: int) -> tuple[bytes, str]:
    try:
        return _reader(voice).stretch(start_frame, frames).tobytes(), ""
    except (RipePressError, OSError) as error:
        let_go(voice)
        return b"", str(error)


def _reader(voice: Voice) -> VoiceReader:
    reader = _open.get(voice)
    if reader is None:
        reader = _open[voice] = VoiceReader(voice)
        while len(_open) > _MOST_OPEN:
            _open.popitem(last=False)[1].close()
    _open.move_to_end(voice)
    return reader


def let_go(*voices: Voice) -> None:
    """Close idle sources."""
    for voice in voices:
        if reader := _open.pop(voice, None):
            reader.close()


def look_at_passage(voices: tuple[Voice, Voice], gain_db: float, start_frame: int, end_frame: int) -> "PassageLook":
    """A passage of a file beside that of its mix, turned up as the press did. Raises: as reading does."""
    # Imported when needed, as below: a process that only reads sources starts faster without.
    from ripe_press.core.proof.against.passage import look_at

    sounds = []
    for voice in voices:
        with VoiceReader(voice) as reader:
            sounds.append(reader.stretch(start_frame, end_frame - start_frame).astype(np.float64))
    return look_at(sounds[0] * linear_from_db(gain_db), sounds[1], voices[0].desk_hz, start_frame / voices[0].desk_hz)


def code_in_job(rung: StationPath, coded: str, target: str, job: str) -> None:
    """Encode one setting of the comparison and decode it for playback. Raises: as `code_rung` and `spool`."""
    folder = JobFolder(Path(job))
    # Imported when needed: a process that only reads sources starts faster without the encoders.
    from ripe_press.core.ladder import code_rung

    code_rung(rung, Path(coded), folder.should_stop)
    spool(Path(coded), "", Path(target), folder.should_stop)


def spool_in_job(path: str, downmix: str, target: str, job: str) -> None:
    """Decode a file for playback; stops when the listening desk is closed. Raises: as `spool`."""
    spool(Path(path), downmix, Path(target), JobFolder(Path(job)).should_stop)
