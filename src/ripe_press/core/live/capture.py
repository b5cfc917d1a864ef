"""What a live pass heard, made into a capture: cut to the sample, measured, and whole, however the pass ended."""

from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Literal

import numpy as np
import soxr
from numpy.typing import NDArray

from ripe_press.core.blocks import Progress, no_progress
from ripe_press.core.errors import Unreadable
from ripe_press.core.formats.writing.wav import WavWriter
from ripe_press.core.live.dropouts import (
    MOST_SLIP_FRAMES,
    SEGMENT_FRAMES,
    SENT_LOUD,
    Dropout,
    lag_of,
    silent_stretches,
    slips,
)
from ripe_press.core.live.probe import MOST_LATE_S, PROBE_S, find_probe
from ripe_press.core.live.timing import NO_DRIFT_PPM, PPM, Timing, timing_of
from ripe_press.core.sources.source import AudioSource, Reader

Frames = NDArray[np.float32]
Measured = Literal["probe", "click"]
ONSET = 0.01
"""A click begins where −40 dBFS are first reached (our own choice): far above the noise of any converter."""
_LEAD_S = 0.1
_BLOCK_FRAMES = 1 << 16
_LOOK_S = 2.0
_CONTEXT_FRAMES = 4096


@dataclass(frozen=True, slots=True)
class PassLayout:
    """The send signal of a pass in samples: test signal, audio, test signal, with silence longer than any latency."""

    rate_hz: int
    channels: int
    frames: int
    measured_by: Measured = "probe"

    @property
    def first_probe(self) -> int:
        """Where the first probe begins."""
        return round(_LEAD_S * self.rate_hz)

    @property
    def probe_room(self) -> int:
        """So many frames from the beginning of a probe on belong to it alone."""
        return round((PROBE_S + MOST_LATE_S + _LEAD_S) * self.rate_hz)

    @property
    def sound(self) -> int:
        """Where the sound begins."""
        return self.first_probe + self.probe_room

    @property
    def second_probe(self) -> int:
        """Start of the second test signal, after the latency of the audio."""
        return self.sound + self.frames + round((MOST_LATE_S + _LEAD_S) * self.rate_hz)

    @property
    def end(self) -> int:
        """How many frames are sent in all."""
        return self.second_probe + self.probe_room


@dataclass(frozen=True, slots=True)
class CaptureResult:
    """What came back: a file of float32 as the counters place it, and what the counters left out."""

    spool: Path
    layout: PassLayout
    gaps: tuple[Dropout, ...] = ()
    """In frames of the spool."""

    def open(self) -> Frames:
        """Open the recorded samples on demand; an empty recording has no samples."""
        channels = self.layout.channels
        frames = self.spool.stat().st_size // (4 * channels)
        if not frames:
            return np.zeros((0, channels), dtype=np.float32)
        return np.memmap(self.spool, dtype="<f4", mode="r", shape=(frames, channels))


@dataclass(frozen=True, slots=True)
class Capture:
    """Measurements of a capture. ``latency_frames`` is the latency at its start, ``latency_after_frames`` that of the
    second test signal; dropout positions are samples of the capture.
    """

    frames: int
    rate_hz: int
    channels: int
    complete: bool
    latency_frames: float
    latency_after_frames: float | None
    drift_ppm: float | None
    drift_corrected: bool
    inverted: bool
    dropouts: tuple[Dropout, ...]
    peak: float
    overs: int


def probe_at(heard: Frames, layout: PassLayout, start: int) -> tuple[float, bool] | None:
    """Latency of a test signal in samples, and whether its polarity is inverted; None if not found.

    A click is located by its first samples.
    """
    part = np.asarray(heard[start : start + layout.probe_room])
    if layout.measured_by == "click":
        loud = np.flatnonzero(np.abs(part).max(axis=1, initial=0.0) >= ONSET)
        return (float(loud[0]), False) if len(loud) else None
    found = find_probe(part, layout.rate_hz)
    return (found.late_frames, found.inverted) if found.is_clear else None


def make_capture(
    heard: CaptureResult,
    sent: AudioSource | None,
    target: Path,
    *,
    correct_drift: bool,
    progress: Progress = no_progress,
) -> Capture:
    """Writes the capture of a pass, as long as was heard of it, and measures what can be measured.

    ``sent`` is what went out, where it was sound. Raises: Unreadable ``pass.no-probe`` where the first probe did not
    come back, ``pass.nothing`` where nothing of the sound did; Interrupted ``write.failed``.
    """
    layout, spool = heard.layout, heard.open()
    first = probe_at(spool, layout, layout.first_probe)
    if first is None:
        message = "No signal returned from the unit. Check its connections."
        raise Unreadable("pass.no-probe", message)
    late, inverted = first
    # A slow clock gives fewer frames back than it was sent.
    whole = len(spool) >= layout.second_probe + layout.probe_room - round(_LEAD_S * layout.rate_hz)
    second = probe_at(spool, layout, layout.second_probe) if whole else None
    begun = (layout.first_probe, late)
    rough = timing_of(begun, (layout.second_probe, second[0]) if second else None)
    found: list[Dropout] = []
    with ExitStack() as stack:
        aligned = None
        if sent is not None:
            aligned = _Aligned(stack.enter_context(sent.open()), spool, layout, rough)
            found = aligned.slips(late)
            slipped = -sum(one.frames for one in found)
            rough = timing_of(begun, (layout.second_probe, second[0]) if second else None, slipped)
        patched = _Patched(spool, rough, layout, found)
        frames = min(layout.frames, patched.frames)
        if frames <= 0:
            message = "The pass stopped before any audio returned. Run it again."
            raise Unreadable("pass.nothing", message)
        corrects = correct_drift and second is not None and abs(rough.drift_ppm) > NO_DRIFT_PPM
        peak, overs = 0.0, 0
        with WavWriter(target, "f32", layout.rate_hz, layout.channels) as writer:
            at = 0
            for block in _in_time(patched, rough.drift_ppm if corrects else 0.0, frames):
                loud = np.abs(block)
                peak = max(peak, float(loud.max(initial=0.0)))
                overs += int(np.count_nonzero(loud >= 1.0))
                writer.write(block.astype(np.float64))
                at += len(block)
                progress(at, frames)
        counted = [replace(one, start_frame=patched.place_of(one.start_frame)) for one in heard.gaps]
        if aligned:
            found += aligned.silent(patched, frames, [*counted, *found])
    inside = [one for one in (*counted, *found) if 0 <= one.start_frame < frames]
    return Capture(
        frames, layout.rate_hz, layout.channels, frames == layout.frames, late, second[0] if second else None,
        rough.drift_ppm if second else None, corrects, inverted,
        tuple(sorted(inside, key=lambda one: one.start_frame)), peak, overs,
    )  # fmt: skip


class _Patched:
    """The sound of a pass in the frames in which it should lie: what slipped is put where it belongs."""

    def __init__(self, spool: Frames, timing: Timing, layout: PassLayout, found: Sequence[Dropout]) -> None:
        self._spool = spool
        self._begins = round(timing.heard_at(layout.sound))
        self._slips = found
        lost = sum(one.frames for one in found)
        self.frames = max(0, len(spool) - self._begins + lost)

    def place_of(self, spool_frame: int) -> int:
        """Position of a recorded sample in the capture."""
        place = spool_frame - self._begins
        return place + sum(one.frames for one in self._slips if one.start_frame <= place)

    def read(self, start: int, end: int) -> Frames:
        """Some frames of it; silence where there are none, as in front of the first."""
        pieces, at = [], start
        lost = 0
        for one in (*self._slips, None):
            stop = end if one is None else min(end, one.start_frame)
            if at < stop:
                pieces.append(self._of_spool(at - lost, stop - lost))
                at = stop
            if one is None or at >= end:
                break
            gap = max(0, min(end, one.start_frame + one.frames) - at) if one.frames > 0 else 0
            pieces.append(np.zeros((gap, self._spool.shape[1]), dtype=np.float32))
            at += gap
            lost += one.frames
        return np.concatenate(pieces) if pieces else np.zeros((0, self._spool.shape[1]), dtype=np.float32)

    def _of_spool(self, start: int, end: int) -> Frames:
        first, last = start + self._begins, end + self._begins
        whole = np.zeros((end - start, self._spool.shape[1]), dtype=np.float32)
        begin, stop = max(0, first), min(len(self._spool), last)
        if begin < stop:
            whole[begin - first : stop - first] = self._spool[begin:stop]
        return whole


def _in_time(patched: _Patched, drift_ppm: float, frames: int) -> Iterator[Frames]:
    """The capture in blocks; with drift, resampled to the clock of the sent signal."""
    if not drift_ppm:
        for at in range(0, frames, _BLOCK_FRAMES):
            yield patched.read(at, min(frames, at + _BLOCK_FRAMES))
        return
    faster = 1 + drift_ppm * PPM
    channels = patched.read(0, 1).shape[1]
    clock = soxr.ResampleStream(faster, 1.0, channels, dtype="float32", quality="VHQ")
    # Its filter gets the audio around the cut.
    skip, left = _CONTEXT_FRAMES, frames
    first, last = -round(_CONTEXT_FRAMES * faster), round(frames * faster) + _CONTEXT_FRAMES
    for at in range(first, last, _BLOCK_FRAMES):
        end = min(last, at + _BLOCK_FRAMES)
        out = clock.resample_chunk(patched.read(at, end), last=end == last).reshape(-1, channels)
        out, skip = out[skip:], max(0, skip - len(out))
        yield out[:left]
        left -= min(left, len(out))


class _Aligned:
    """Sent and returned signal, aligned."""

    def __init__(self, reader: Reader, spool: Frames, layout: PassLayout, timing: Timing) -> None:
        self._reader = reader
        self._spool = spool
        self._layout = layout
        self._timing = timing

    def _sent(self, start: int, end: int) -> Frames:
        blocks = list(self._reader.blocks(start, end))
        frames = np.concatenate(blocks) if blocks else np.zeros((0, self._layout.channels))
        if frames.shape[1] < self._layout.channels:
            frames = np.repeat(frames[:, :1], self._layout.channels, axis=1)
        return frames[:, : self._layout.channels].astype(np.float32)

    def slips(self, late: float) -> list[Dropout]:
        """Jumps in time, looked for every two seconds where something was sent."""
        layout = self._layout
        steady = Timing(late, 0.0)
        lags: list[tuple[int, int]] = []
        for at in range(0, layout.frames - SEGMENT_FRAMES, round(_LOOK_S * layout.rate_hz)):
            start = round(steady.heard_at(layout.sound + at))
            if start + SEGMENT_FRAMES > len(self._spool):
                break
            sent = self._sent(at, at + SEGMENT_FRAMES)
            if float(np.abs(sent).max(initial=0.0)) < SENT_LOUD:
                continue
            lag = lag_of(sent, np.asarray(self._spool[start : start + SEGMENT_FRAMES]))
            if lag is not None and abs(lag) < MOST_SLIP_FRAMES:
                lags.append((at, lag))
        return [self._placed(one, lags, late) for one in slips(lags)]

    def _placed(self, slip: Dropout, lags: list[tuple[int, int]], late: float) -> Dropout:
        """A slip at the frame where one lag ceases to fit and the next begins to."""
        number = next(at for at, (frame, _) in enumerate(lags) if frame == slip.start_frame)
        (first, before), (last, after) = lags[number - 1], lags[number]
        end = min(last + SEGMENT_FRAMES, self._layout.frames)
        sent = self._sent(first, end)
        begins = round(self._layout.sound + late)

        def misfit(lag: int) -> NDArray[np.float64]:
            start = begins + first + lag
            part = np.asarray(self._spool[max(0, start) : max(0, start) + len(sent)])
            count = min(len(part), len(sent))
            error = np.square(part[:count].astype(np.float64) - sent[:count]).sum(axis=1)
            return np.concatenate((error, np.zeros(len(sent) - count)))

        # The old lag fits before the lost samples, the new one after them: split where the remainder is smallest.
        fits, again = (np.concatenate(([0.0], np.cumsum(misfit(lag)))) for lag in (before, after))
        lost = max(0, slip.frames)
        split = fits[: len(fits) - lost] - again[lost:]
        return replace(slip, start_frame=first + int(np.argmin(split)))

    def silent(self, patched: _Patched, frames: int, known: Sequence[Dropout]) -> list[Dropout]:
        """Ranges of missing return signal that the counters did not report."""
        step = SEGMENT_FRAMES // 2
        found: list[Dropout] = []
        for at in range(0, frames, step):
            end = min(frames, at + step)
            shift = round(at * self._timing.drift_ppm * PPM)
            found += silent_stretches(self._sent(at, end), patched.read(at + shift, end + shift), at + shift)
        joined: list[Dropout] = []
        for one in found:
            if joined and joined[-1].start_frame + joined[-1].frames >= one.start_frame - 1:
                last = joined.pop()
                one = replace(last, frames=one.start_frame + one.frames - last.start_frame)  # noqa: PLW2901
            joined.append(one)
        return [one for one in joined if not any(_overlap(one, other) for other in known)]


def _overlap(one: Dropout, other: Dropout) -> bool:
    reach = abs(other.frames) + 64
    return one.start_frame < other.start_frame + reach and other.start_frame - 64 < one.start_frame + one.frames
