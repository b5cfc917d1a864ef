"""Decoding what libsndfile does not read (AAC, ALAC, WavPack), with the guards that the library lacks.

Formats are whitelisted because the library would follow a text file that names another file; every frame is
checked before it is turned into an array, because a damaged stream may change its shape in the middle and take
the process down.
"""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import BLOCK_FRAMES, Block
from ripe_press.core.errors import Unreadable, Unsupported
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.formats.reading.channel_layout import of_names
from ripe_press.core.words import quoted

_GUARDS = {"protocol_whitelist": "file", "format_whitelist": "mov,mp4,m4a,3gp,3g2,mj2,aac,wv,wav,ogg"}
_CONTAINERS = {"aac": "mp4", "alac": "mp4", "wavpack": "wavpack", "opus": "ogg", "vorbis": "ogg"}
_LOSSY = ("aac", "opus", "vorbis")
_PCM_BITS = {"pcm_u8": 8, "pcm_s16le": 16, "pcm_s24le": 24, "pcm_s32le": 32, "pcm_f32le": 32, "pcm_f64le": 64}
MOST_PLANAR_CHANNELS = 7
"""The library's conversion of a frame of eight planar channels takes the process down (measured): those are packed."""

UNCOUNTED = 1 << 62
"""The sample count of a file that is not counted yet."""

_SCALES = {"u8": 2.0**-7, "s16": 2.0**-15, "s32": 2.0**-31, "flt": 1.0, "dbl": 1.0}
# AttributeError: in a damaged file the binding gives None for a codec, a format or a layout.
_LIBRARY_ERRORS = (av.FFmpegError, OSError, ValueError, MemoryError, NotImplementedError, AttributeError)


class AvDecoder:
    """A file decoded from its start; without seeking, because these codecs do not seek exactly.

    The frames of its facts are counted by decoding it once; not ``counted``, they are a bound that is not reached.
    """

    def __init__(self, path: Path, *, counted: bool = True) -> None:
        self._path = path.absolute()
        self._counted = counted
        self.facts = self._look()

    def blocks(self) -> Iterator[Block]:
        """All frames in order, in the codec's own block sizes. Raises: Unreadable ``source.damaged``."""
        left = self.facts.frames
        for block in self._decoded(self.facts.rate_hz, self.facts.channels):
            if left <= 0:
                return
            yield block[:left]
            left -= len(block)

    def _look(self) -> SourceFacts:
        try:
            with av.open(str(self._path), options=_GUARDS, metadata_errors="replace") as container:
                if not container.streams.audio:
                    message = f"{quoted(self._path.name)} contains no audio. Choose an audio file."
                    raise Unreadable("source.no-audio", message, path=str(self._path))
                stream = container.streams.audio[0]
                context = stream.codec_context
                named = context.name.removeprefix("lib")
                codec = named if named in _CONTAINERS or named in _PCM_BITS else None
                rate, channels = context.sample_rate, context.layout.nb_channels
                layout = of_names([one.name for one in context.layout.channels]) if channels > 2 else None
                declared = None
                if stream.duration is not None and stream.time_base is not None:
                    declared = round(stream.duration * stream.time_base * rate)
                sample_format = context.format.name if context.format else ""
        except _LIBRARY_ERRORS as error:
            message = f"{quoted(self._path.name)} is not a readable audio file. Copy or export it again."
            raise Unreadable("source.not-sound", message, path=str(self._path)) from error
        if codec is None:
            message = f"{quoted(self._path.name)} has an unsupported codec. Export it in another format."
            raise Unsupported("source.codec", message, path=str(self._path))
        counted = UNCOUNTED
        if self._counted:
            counted = sum(len(block) for block in self._decoded(rate, channels)) if channels >= 1 else 1
        if codec in _PCM_BITS:
            kind = "pcm-float" if codec.startswith("pcm_f") else "pcm"
            return SourceFacts(str(self._path), "rf64", kind, rate, channels, counted, _PCM_BITS[codec], layout=layout)
        depth = None if codec in _LOSSY else 16 if sample_format.startswith("s16") else 24
        if codec == "wavpack":
            depth = 32 if sample_format.startswith("flt") else wavpack_bits(self._path)
        # AAC is padded to whole packets at its end: the container knows how much of that is music.
        frames = min(counted, declared) if declared and codec == "aac" else counted
        floats = sample_format.startswith("flt")
        name = codec if codec in _LOSSY else "pcm-float" if floats else "pcm"
        return SourceFacts(str(self._path), _CONTAINERS[codec], name, rate, channels, frames, depth, layout=layout)

    def _decoded(self, rate_hz: int, channels: int) -> Iterator[Block]:
        try:
            with av.open(str(self._path), options=_GUARDS, metadata_errors="replace") as container:
                # Frames of these codecs are short: several are turned into one block, which costs a third of the time.
                kept: list[NDArray[Any]] = []
                held, kind = 0, ""
                for frame in _packed(container.decode(container.streams.audio[0]), channels):
                    before, kind = kind, frame.format.name.removesuffix("p")
                    shape = (frame.layout.nb_channels, frame.sample_rate)
                    changed = shape != (channels, rate_hz) or kind not in _SCALES or before not in ("", kind)
                    if changed or (frame.format.is_planar and channels > MOST_PLANAR_CHANNELS):
                        message = (
                            f"{quoted(self._path.name)} is damaged: its format changes within the file. "
                            "Export it again."
                        )
                        raise Unreadable("source.damaged", message, path=str(self._path))
                    samples = frame.to_ndarray()
                    kept.append(samples.T if frame.format.is_planar else samples.reshape(-1, channels))
                    held += len(kept[-1])
                    if held >= BLOCK_FRAMES:
                        yield _scaled(kept, kind)
                        kept, held = [], 0
                if kept:
                    yield _scaled(kept, kind)
        except _LIBRARY_ERRORS as error:
            message = f"{quoted(self._path.name)} is damaged: decoding stopped. Copy or export it again."
            raise Unreadable("source.damaged", message, path=str(self._path)) from error


def _scaled(pieces: list[NDArray[Any]], kind: str) -> Block:
    block: Block = np.empty((sum(len(one) for one in pieces), pieces[0].shape[1]))
    np.concatenate(pieces, out=block, casting="unsafe")
    if kind == "u8":
        block -= 128.0
    if _SCALES[kind] != 1.0:
        block *= _SCALES[kind]
    return block


def _packed(frames: Iterator[av.AudioFrame], channels: int) -> Iterator[av.AudioFrame]:
    """The frames, packed by the library itself where its conversion of planar ones cannot be used."""
    packer: av.AudioResampler | None = None
    for frame in frames:
        if channels <= MOST_PLANAR_CHANNELS or not frame.format.is_planar or frame.layout.nb_channels != channels:
            yield frame
            continue
        packer = packer or av.AudioResampler(format=frame.format.name.removesuffix("p"))
        yield from packer.resample(frame)


def wavpack_bits(path: Path) -> int:
    """The depth that the first block of a WavPack file declares: its flags hold bytes a sample, less one.

    Source: WavPack 4 and 5 binary file format (from memory); the decoder calls 32 bits what has 24.
    """
    with path.open("rb") as file:
        head = file.read(32)
    return 8 * ((int.from_bytes(head[24:28], "little") & 3) + 1)
