"""Writing ALAC and AAC in MP4, Opus in Ogg, WavPack, and a still picture as video, through the FFmpeg libraries.

Sources: ISO/IEC 14496-12 (edit lists), RFC 7845 (pre-skip and granule positions), both kept by the muxers; the muxers'
defaults and the settings here were measured.
"""

import errno
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from ripe_press.core.blocks import Samples, as_integers
from ripe_press.core.disk import write_failed
from ripe_press.core.errors import Interrupted
from ripe_press.core.formats.capabilities import Container, Encoding, encoder_of
from ripe_press.core.formats.coding import Coding, switches_for
from ripe_press.core.formats.writing._file import NewFile, encoder_refused
from ripe_press.core.formats.writing.encoders import Encoder
from ripe_press.core.timeline import Marker
from ripe_press.core.whole_files import sync

Picture = NDArray[np.uint8]

_FRAMES_A_PIECE = 4096
_SECONDS_A_PICTURE = 1


class AvWriter(NewFile):
    """A new file of one of these codecs; the same samples give the same bytes.

    ``chapters`` are kept by MP4; ``picture`` is what a video shows, shape ``(height, width, 3)``, both even.
    Raises: Interrupted ``write.failed``.
    """

    def __init__(
        self,
        path: Path,
        container: Container,
        encoding: Encoding,
        rate_hz: int,
        channels: int,
        coding: Coding | None = None,
        frames: int = 0,
        chapters: Sequence[Marker] = (),
        picture: Picture | None = None,
    ) -> None:
        self.path = path
        self.frames = 0
        self._rate_hz = rate_hz
        self._layout = "stereo" if channels == 2 else "mono"
        encoder = encoder_of(container)
        self._kind = dict(encoder.samples)[encoding]
        options = {"fflags": "+bitexact"}
        if encoder.exact_times:
            # A player could not return the exact frames.
            options |= {"movflags": "+faststart", "movie_timescale": str(rate_hz)}
        try:
            path.open("xb").close()
        except OSError as error:
            raise write_failed(path, error) from error
        try:
            self._file = av.open(str(path.absolute()), "w", format=encoder.form, container_options=options)
            self._picture = _StillPicture(self._file, rate_hz, picture) if picture is not None else None
            stream: Any = self._file.add_stream(encoder.codec, rate=rate_hz, layout=self._layout)
            stream.codec_context.format = self._kind
            stream.options = _codec_options(encoder, container, encoding, coding, channels)
            if coding:
                stream.codec_context.bit_rate = coding.kbps * 1000
            self._stream = stream
            if chapters and encoder.exact_times:
                self._file.set_chapters(_chapters(chapters, rate_hz, frames))  # type: ignore[arg-type]
        except (av.FFmpegError, OSError, ValueError) as error:
            path.unlink(missing_ok=True)
            raise self._failed(error) from error

    def write(self, samples: Samples) -> None:
        """Appends a block, shape ``(frames, channels)``: int32 for integer encodings, otherwise float64."""
        try:
            for start in range(0, len(samples), _FRAMES_A_PIECE):
                self._encode(samples[start : start + _FRAMES_A_PIECE])
        except (av.FFmpegError, OSError, ValueError) as error:
            raise self._failed(error) from error

    def close(self) -> None:
        """Completes the file and syncs it."""
        try:
            self._file.mux(self._stream.encode(None))
            if self._picture:
                self._picture.end(self.frames)
            self._file.close()
            sync(self.path)
        except (av.FFmpegError, OSError, ValueError) as error:
            raise self._failed(error) from error

    def abandon(self) -> None:
        """Closes and removes the unfinished file."""
        try:
            self._file.close()
        except (av.FFmpegError, OSError, ValueError):
            # It is thrown away: what could not be completed does not matter.
            pass
        finally:
            self.path.unlink(missing_ok=True)

    def _encode(self, samples: Samples) -> None:
        frame = av.AudioFrame.from_ndarray(self._shaped(samples), format=self._kind, layout=self._layout)
        frame.sample_rate = self._rate_hz
        frame.time_base = Fraction(1, self._rate_hz)
        frame.pts = self.frames
        self.frames += len(samples)
        if self._picture:
            self._picture.show_up_to(self.frames)
        self._file.mux(self._stream.encode(frame))

    def _shaped(self, samples: Samples) -> Any:
        match self._kind:
            case "s16p":
                return np.ascontiguousarray((as_integers(samples) >> 16).astype(np.int16).T)
            case "s32p":
                return np.ascontiguousarray(as_integers(samples).T)
            case "fltp":
                return np.ascontiguousarray(samples.T.astype(np.float32))
            case _:
                return np.ascontiguousarray(samples.astype(np.float32).reshape(1, -1))

    def _failed(self, error: Exception) -> Interrupted:
        # An invalid argument is not a disk error.
        refused = getattr(error, "errno", None) == errno.EINVAL or isinstance(error, ValueError)
        if refused:
            return encoder_refused(self.path, str(getattr(error, "strerror", "") or error))
        return write_failed(self.path, error)


def _codec_options(
    encoder: Encoder, container: Container, encoding: Encoding, coding: Coding | None, channels: int
) -> dict[str, str]:
    options = {"flags": "+bitexact", **dict(encoder.options)}
    if coding:
        options |= switches_for(container, coding.kbps, channels)
        if vbr := dict(encoder.modes).get(coding.mode):
            options["vbr"] = vbr
    if encoder.says_24_bits and encoding in ("s20", "s24"):
        options["bits_per_raw_sample"] = "24"
    return options


def _chapters(markers: Sequence[Marker], rate_hz: int, frames: int) -> list[dict[str, Any]]:
    """Both chapter lists begin at 0, otherwise one of them would move its first: without a marker there, an unnamed
    chapter begins at 0.
    """
    if markers[0].frame:
        markers = (Marker(0, ""), *markers)
    ends = [*(marker.frame for marker in markers[1:]), frames]
    return [
        {
            "id": number, "start": marker.frame, "end": max(marker.frame, end), "time_base": Fraction(1, rate_hz),
            "metadata": {"title": marker.name},
        }
        for number, (marker, end) in enumerate(zip(markers, ends, strict=True))
    ]  # fmt: skip


class _StillPicture:
    """One picture, shown for as long as there is sound, to the very sample."""

    def __init__(self, file: Any, rate_hz: int, picture: Picture) -> None:
        self._file = file
        self._rate_hz = rate_hz
        self._shown = 0
        self._image = av.VideoFrame.from_ndarray(picture, format="rgb24")
        height, width, _ = picture.shape
        self._stream: Any = file.add_stream("libx264", rate=Fraction(1, _SECONDS_A_PICTURE))
        self._stream.width, self._stream.height = width, height
        self._stream.pix_fmt = "yuv420p"
        self._stream.time_base = self._stream.codec_context.time_base = Fraction(1, rate_hz)
        # Frames in order, and one thread: the same picture gives the same bytes on any machine.
        self._stream.options = {
            "preset": "medium", "tune": "stillimage", "crf": "18", "bf": "0", "threads": "1", "flags": "+bitexact",
        }  # fmt: skip
        self._last: Any = None

    def show_up_to(self, frames: int) -> None:
        """Pictures for all that is heard up to a frame."""
        while self._shown < frames:
            image = self._image
            image.pts = self._shown
            image.time_base = Fraction(1, self._rate_hz)
            self._hold(self._stream.encode(image))
            self._shown += _SECONDS_A_PICTURE * self._rate_hz

    def end(self, frames: int) -> None:
        """The last picture stands until the sound ends, and no longer."""
        self._hold(self._stream.encode(None))
        if self._last is not None:
            ticks = Fraction(frames, self._rate_hz) / self._last.time_base
            self._last.duration = max(1, int(ticks) - self._last.pts)
            self._file.mux(self._last)

    def _hold(self, packets: list[Any]) -> None:
        for packet in packets:
            if self._last is not None:
                self._file.mux(self._last)
            self._last = packet
