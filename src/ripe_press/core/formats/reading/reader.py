"""Opening a mix: its facts, and its samples block by block from any frame."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from types import TracebackType
from typing import Self

import numpy as np
import soundfile

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.errors import BadInput, Unreadable, Unsupported
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.reading.channel_layout import read_layout, wave_order
from ripe_press.core.formats.reading.downmix import MOST_CHANNELS, Downmixer, channels_after, settle
from ripe_press.core.formats.reading.header_check import begins_with, check_head, check_share, holds_opus, read_by_av
from ripe_press.core.units import MAX_RATE_HZ, MIN_RATE_HZ, print_clock
from ripe_press.core.words import quoted

_CONTAINERS = {
    "WAV": "wav", "WAVEX": "wav", "RF64": "rf64", "W64": "w64", "AIFF": "aiff", "CAF": "caf",
    "FLAC": "flac", "MP3": "mp3", "MPEG": "mp3", "OGG": "ogg",
}  # fmt: skip
_CODECS: dict[str, tuple[str, int | None]] = {
    "PCM_S8": ("pcm", 8), "PCM_U8": ("pcm", 8), "PCM_16": ("pcm", 16), "PCM_24": ("pcm", 24),
    "PCM_32": ("pcm", 32), "FLOAT": ("pcm-float", 32), "DOUBLE": ("pcm-float", 64),
    "MPEG_LAYER_III": ("mp3", None), "VORBIS": ("vorbis", None), "OPUS": ("opus", None),
}  # fmt: skip
_INEXACT_SEEK = {"vorbis", "opus"}
"""Codecs with wrong first samples after the library's seek: its decoder restarts there."""
_PREROLL_FRAMES = 8192
"""Decoded and thrown away after such a seek: with half as many, none of 600 seeks differed (measured)."""
_LAST_FRAMES = 131_072
"""Nor is a jump into the last page right: its count is that of the end, which is trimmed."""


class SourceReader:
    """An open mix. Never writes, never holds more than a block.

    Raises on opening: NotFound, Unreadable (empty, truncated, not sound, no channels, no audio), Unsupported
    (more than 32 channels, rates outside 8 to 384 kHz, a codec that is not read); BadInput for a ``downmix``
    that does not fit the file.

    Not ``counted``, the frames of its facts are those that the file declares or, where it does not, a bound.
    """

    def __init__(self, path: Path, downmix: str = "", *, counted: bool = True) -> None:
        self._counted = counted
        self._path = path.absolute()
        self._wish = downmix
        check_head(self._path)
        self._file: soundfile.SoundFile | None = None
        # Read from end to end, Opus is decoded twice as fast by the library that cannot be entered anywhere.
        if read_by_av(self._path) or (not counted and holds_opus(self._path)):
            self._open_by_av()
            return
        try:
            self._file = soundfile.SoundFile(str(self._path))
        except (soundfile.LibsndfileError, RuntimeError, TypeError) as error:
            # In RF64 the library does not find the sound behind a chunk of odd size; the other one does.
            # And it refuses an Ogg stream whose first page begins before its first sample; players play those.
            if begins_with(self._path, b"RF64") or begins_with(self._path, b"OggS"):
                self._open_by_av()
                return
            message = (
                f"{quoted(path.name)} is not a readable audio file. "
                f"WAV, AIFF, CAF, FLAC, WavPack, MP3, AAC, ALAC and Ogg are read."
            )
            raise Unreadable("source.not-sound", message, path=str(path)) from error
        try:
            self.facts = self._facts(self._file)
        except BaseException:
            self._file.close()
            raise

    def _open_by_av(self) -> None:
        from ripe_press.core.formats.reading.av_decoder import AvDecoder

        self._av = AvDecoder(self._path, counted=self._counted)
        self.facts = self._checked(self._av.facts)

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()

    @property
    def enters_anywhere(self) -> bool:
        """Whether any frame can be reached without decoding everything before it."""
        return self._file is not None

    @property
    def seeks_exactly(self) -> bool:
        """Whether any frame can be reached at once, with nothing decoded that is thrown away."""
        return self.enters_anywhere and self.facts.codec not in _INEXACT_SEEK

    def close(self) -> None:
        """Lets go of the file."""
        if self._file is not None:
            self._file.close()

    def blocks(
        self, start_frame: int = 0, end_frame: int | None = None, block_frames: int = BLOCK_FRAMES
    ) -> Iterator[Block]:
        """The frames from ``start_frame`` up to, without, ``end_frame``.

        Raises: Unreadable ``source.truncated`` when fewer frames come than the file declares,
        ``source.not-a-number`` with the place of the first such sample.
        """
        end = self.facts.frames if end_frame is None else min(end_frame, self.facts.frames)
        blocks = self._all_channels(start_frame, end, block_frames)
        return map(self._downmixer.process, blocks) if self.facts.downmix else blocks

    def _all_channels(self, start_frame: int, end: int, block_frames: int) -> Iterator[Block]:
        pieces = self._pieces(start_frame, end, block_frames) if self._file is None else None
        at = start_frame if pieces else self._seek(start_frame, block_frames)
        while at < end:
            block = next(pieces, None) if pieces else self._read(min(block_frames, end - at))
            if block is None or not len(block):
                if pieces and not self._counted:
                    return
                message = (
                    f"{quoted(self._path.name)} is truncated: it declares {self.facts.frames:,} samples, "
                    f"{at:,} are readable. Copy or export it again."
                )
                raise Unreadable("source.truncated", message, declared=self.facts.frames, read=at)
            self._check_finite(block, at)
            at += len(block)
            yield block

    def file_blocks(self) -> Iterator[Block]:
        """All frames with every channel of the file, in the order of WAV. Raises: as `blocks`."""
        order = wave_order(self.facts.layout) if self.facts.layout else None
        for block in self._all_channels(0, self.facts.frames, BLOCK_FRAMES):
            yield block if order is None else np.ascontiguousarray(block[:, order])

    def _pieces(self, start: int, end: int, block_frames: int) -> Iterator[Block]:
        """Blocks of the asked size out of a decoder that only goes forward."""
        kept: list[Block] = []
        held = at = 0
        for block in self._av.blocks():
            piece = block[max(0, start - at) : max(0, end - at)]
            at += len(block)
            while len(piece):
                room = block_frames - held
                kept.append(piece[:room])
                held += len(kept[-1])
                piece = piece[room:]
                if held == block_frames:
                    yield np.concatenate(kept)
                    kept, held = [], 0
            if at >= end:
                break
        if held:
            yield np.concatenate(kept)

    def _seek(self, start_frame: int, block_frames: int) -> int:
        assert self._file is not None  # noqa: S101 - narrows for the type checker
        begin = start_frame
        try:
            if self.facts.codec in _INEXACT_SEEK:
                begin = max(0, min(start_frame - _PREROLL_FRAMES, self.facts.frames - _LAST_FRAMES))
                if self._file.tell():
                    # After a few jumps within one open file Vorbis continues at a wrong place (measured).
                    used, self._file = self._file, soundfile.SoundFile(str(self._path))
                    used.close()
            self._file.seek(begin)
        except (soundfile.LibsndfileError, RuntimeError) as error:
            raise self._damaged() from error
        left = start_frame - begin
        while left and (skipped := len(self._read(min(block_frames, left)))):
            left -= skipped
        return start_frame - left

    def _read(self, frames: int) -> Block:
        assert self._file is not None  # noqa: S101 - narrows for the type checker
        try:
            block: Block = self._file.read(frames, dtype="float64", always_2d=True)
        except (soundfile.LibsndfileError, RuntimeError) as error:
            raise self._damaged() from error
        return block

    def _damaged(self) -> Unreadable:
        message = f"{quoted(self._path.name)} is damaged: decoding stopped. Copy or export it again."
        return Unreadable("source.damaged", message, path=str(self._path))

    def _check_finite(self, block: Block, at: int) -> None:
        # One sum is the cheapest look at every sample: a single infinity or NaN spoils it.
        if not self.facts.is_float or np.isfinite(block.sum()):
            return
        bad = np.flatnonzero(~np.isfinite(block).all(axis=1))
        if len(bad):
            frame = at + int(bad[0])
            where = print_clock(frame, self.facts.rate_hz)
            message = (
                f"{quoted(self._path.name)} has invalid samples, first at {where} (sample {frame:,}). "
                "Export the mix again."
            )
            raise Unreadable("source.not-a-number", message, frame=frame)

    def _facts(self, file: soundfile.SoundFile) -> SourceFacts:
        container, codec = _CONTAINERS.get(file.format), _CODECS.get(file.subtype)
        if container is None or codec is None:
            message = f"{quoted(self._path.name)} is {file.format} with {file.subtype}, which is not supported."
            raise Unsupported("source.codec", message, format=file.format, subtype=file.subtype)
        facts = SourceFacts(str(self._path), container, codec[0], file.samplerate, file.channels, file.frames, codec[1])
        return self._checked(facts)

    def _checked(self, facts: SourceFacts) -> SourceFacts:
        name = self._path.name
        if not MIN_RATE_HZ <= facts.rate_hz <= MAX_RATE_HZ:
            message = (
                f"The header of {quoted(name)} says {facts.rate_hz:,} Hz; rates from {MIN_RATE_HZ:,} to "
                f"{MAX_RATE_HZ:,} Hz are read. The header is wrong or damaged."
            )
            raise Unsupported("source.rate", message, rate_hz=facts.rate_hz)
        if not 1 <= facts.channels <= MOST_CHANNELS:
            message = f"{quoted(name)} has {facts.channels} channels; up to {MOST_CHANNELS} are read."
            raise Unsupported("source.channels", message, channels=facts.channels)
        if facts.frames < 1:
            message = f"{quoted(name)} has no audio. Export the mix again."
            raise Unreadable("source.no-audio", message, path=str(self._path))
        check_share(self._path, facts.frames, facts.channels)
        layout = facts.layout or read_layout(self._path, facts.channels)
        try:
            downmix = settle(self._wish, facts.channels, layout)
        except BadInput as error:
            if error.code != "downmix.ask":
                raise
            raise BadInput(error.code, f"{quoted(name)}: {error.message}", channels=facts.channels) from error
        self._downmixer = Downmixer(downmix, facts.channels, layout)
        return replace(
            facts, channels=channels_after(downmix, facts.channels), downmix=downmix, file_channels=facts.channels,
            layout=layout,
        )  # fmt: skip
