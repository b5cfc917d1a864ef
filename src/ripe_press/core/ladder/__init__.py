"""The bit-rate ladder: one mix at all common bit rates of every codec, with the predicted audibility.

Difficult passages compare the settings quickly; the proposed one is then encoded over the whole length, because
selected passages alone predict it badly.
"""

import math
import os
import tempfile
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path as FilePath

import numpy as np

from ripe_press.core.blocks import Block, Progress, no_progress
from ripe_press.core.engine.extra_meter import witness
from ripe_press.core.engine.resolve import Mix, resolve
from ripe_press.core.engine.walker import walk
from ripe_press.core.errors import Cancelled, Unsupported
from ripe_press.core.formats.capabilities import CAPABILITIES, PLAIN, Capability
from ripe_press.core.ladder.passages import LadderPassage, PassageMeter
from ripe_press.core.measure.content import SpectrumMeter, comes_back_to_hz
from ripe_press.core.measure.true_peak import TruePeakMeter
from ripe_press.core.proof.against import hold_against
from ripe_press.core.proof.hearing import AnalysedBlock, Audibility, HearingMeter, Listener
from ripe_press.core.proof.hearing.opinion import Opinion, opinion_of
from ripe_press.core.requests.delivery import Changes, Delivery
from ripe_press.core.requests.making import LEAVE
from ripe_press.core.sources.source import open_file
from ripe_press.core.stations import Codec, Line, Path
from ripe_press.core.trial import encoder_cutoff
from ripe_press.core.whole_files import temporary_prefix

PASSAGE_S = 2.75
RUN_IN_S = 0.6
"""What an encoder hears before a passage, as it would within the whole."""
_FAMILY_OF_RATES = 44_100
MOST_WHOLE = 3
"""So many are coded whole before it is said that none will do."""


@dataclass(frozen=True, slots=True)
class Rung:
    """One codec at one bit rate: what the passages showed, or the whole where that was coded.

    ``kbps`` is what it really takes, ``set_to`` how it is set; ``bytes`` of the whole, foreseen unless ``whole``.
    """

    container: str
    codec: str
    set_to: str
    changes: Changes
    kbps: float
    bytes: int
    heard: Audibility
    opinion: Opinion
    decoded_peak_dbtp: float
    bandwidth_hz: float
    whole: bool = False

    @property
    def passes(self) -> bool:
        """Whether a setting is predicted to be transparent."""
        return self.opinion.prediction in ("same", "none")


@dataclass(frozen=True, slots=True)
class Ladder:
    """All settings by codec with rising bit rates, the passages, and the smallest transparent setting.

    ``asked`` is the smallest in the requested codec. Both are encoded and judged over the whole length.
    """

    rungs: tuple[Rung, ...]
    passages: tuple[LadderPassage, ...]
    """In frames at ``rate_hz``, from the beginning of the range."""
    smallest: Rung | None
    rate_hz: int
    asked: Rung | None = None
    asked_codec: str = ""


def climb(
    delivery: Delivery,
    mix: Mix,
    should_stop: Callable[[], bool] = lambda: False,
    progress: Progress = no_progress,
) -> Ladder:
    """Encode a range of a mix at every setting, with its finishing chain but without level and dither.

    Raises: Cancelled ``ladder.cancelled``; BadInput for a range; errors of reading and encoding.
    """
    return _Climb(delivery, mix, should_stop, progress).run()


class _Climb:
    def __init__(self, delivery: Delivery, mix: Mix, should_stop: Callable[[], bool], progress: Progress) -> None:
        self._rungs = [_Set(*one, path) for one, path in _paths(delivery, mix)]
        can = CAPABILITIES[delivery.container]
        self._asked = can.title if any(one.can == can for one in self._rungs) else ""
        self._should_stop, self._progress = should_stop, progress
        self._listeners: dict[Line, Listener] = {}
        self._done, self._total = 0, 1

    def run(self) -> Ladder:
        passages = self._passages()
        self._total = 1 + 2 * len(passages) + MOST_WHOLE * (2 if self._asked else 1)
        self._step()
        with tempfile.TemporaryDirectory(prefix=temporary_prefix("ladder")) as folder:
            place = FilePath(folder)
            for at, passage in enumerate(passages):
                self._hear(passage, place / str(at))
            rungs = [one.rung() for one in self._rungs]
            whole: dict[Changes, Rung] = {}
            smallest = self._whole(rungs, place, whole)
            asked = self._whole([one for one in rungs if one.codec == self._asked], place, whole)
        self._progress(self._total, self._total)
        # The result of the whole file replaces that of the passages, passed or not.
        judged = tuple(whole.get(one.changes, one) for one in rungs)
        return Ladder(judged, passages, smallest, self._rungs[0].path.codec.rate_hz, asked, self._asked)

    def _step(self) -> None:
        self._done += 1
        self._progress(min(self._done, self._total), self._total)

    def _check(self) -> bool:
        if self._should_stop():
            message = "Cancelled. No results were kept."
            raise Cancelled("ladder.cancelled", message)
        return False

    def _passages(self) -> tuple[LadderPassage, ...]:
        line = self._rungs[0].path.sounding
        return witness(line, lambda here: PassageMeter(here.rate_hz, PASSAGE_S), self._check).result()

    def _hear(self, passage: LadderPassage, place: FilePath) -> None:
        """Encode one passage at every setting, from one shared trunk, and compare the decoded results."""
        place.mkdir()
        lines: list[Line] = []
        targets: dict[int, FilePath] = {}
        lead = 0
        plain: dict[Line, int] = {}
        for one in self._rungs:
            path, lead = _windowed(one.path, passage)
            targets[len(lines)] = one.target = place / f"{len(lines)}"
            lines.append(path.coded)
            if path.sounding not in plain:
                plain[path.sounding] = len(lines)
                targets[len(lines)] = place / f"{len(lines)}.plain"
                codec = path.codec
                lines.append((*path.sounding, Codec(PLAIN, "f64", codec.rate_hz, codec.channels, codec.frames)))
            one.reference = targets[plain[path.sounding]]
        walk(lines, targets, should_stop=self._check)
        self._step()
        referred = {one.reference: one for one in self._rungs}
        sources = {target: self._listen(one.path, target, lead) for target, one in referred.items()}
        with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
            for done in [pool.submit(one.compare, *sources[one.reference]) for one in self._rungs]:
                self._check()
                done.result()
        for target in targets.values():
            target.unlink()
        self._step()

    def _listen(self, path: Path, target: FilePath, lead_frames: int) -> tuple[AnalysedBlock, int]:
        """A decoded passage of the source, once for all settings of its rate; and the samples before it."""
        codec = path.codec
        lead = round(lead_frames * codec.rate_hz / path.source.facts.rate_hz)
        listener = self._listeners.setdefault(path.sounding, Listener(codec.channels, codec.rate_hz))
        return listener.listen(_read(target)[lead:]), lead

    def _whole(self, rungs: Sequence[Rung], place: FilePath, known: dict[Changes, Rung]) -> Rung | None:
        """The smallest setting without a predicted difference, in it and all larger ones of its codec, encoded whole;
        results are ``known`` and added to it.
        """
        for rung in list(_candidates(rungs))[:MOST_WHOLE]:
            if rung.changes in known:
                if known[rung.changes].passes:
                    return known[rung.changes]
                continue
            path = next(one.path for one in self._rungs if one.changes == rung.changes)
            target = place / "whole"
            walk([path.coded], {0: target}, should_stop=self._check)
            size = target.stat().st_size
            found = hold_against(path, target, self._check, looks=False)
            target.unlink()
            self._step()
            if not found.apart or not found.apart.heard:
                continue
            heard = found.apart.heard
            kbps = size * 8 * path.codec.rate_hz / path.codec.frames / 1000
            whole = replace(rung, heard=heard, opinion=opinion_of(heard), bytes=size, kbps=kbps, whole=True)
            known[rung.changes] = whole
            if whole.passes:
                return whole
        return None


def _candidates(rungs: Sequence[Rung]) -> Iterator[Rung]:
    passing = []
    for codec in dict.fromkeys(one.codec for one in rungs):
        for one in reversed([one for one in rungs if one.codec == codec]):
            if not one.passes:
                break
            passing.append(one)
    # Of those that come out alike, as of silence, the lowest setting.
    yield from sorted(passing, key=lambda one: (one.bytes, one.changes.kbps or one.changes.coding_quality or 0))


class _Set:
    """One setting in progress."""

    def __init__(self, can: Capability, changes: Changes, path: Path) -> None:
        self.can, self.changes, self.path = can, changes, path
        self.target = self.reference = FilePath()
        codec = path.codec
        self._meter = HearingMeter(codec.channels, codec.rate_hz)
        self._peak = TruePeakMeter(codec.channels, codec.rate_hz)
        self._spectra = [SpectrumMeter(codec.rate_hz, 16_384) for _ in range(2)]
        self._bytes = self._frames = 0

    def compare(self, heeded: AnalysedBlock, lead: int) -> None:
        """Decode an encoded passage and compare it; the lead-in samples do not count."""
        source, test = heeded.source, _read(self.target)
        self._bytes += self.target.stat().st_size
        self._frames += len(test)
        test = test[lead : lead + len(source)]
        # A decoder that ends early is heard as silence.
        test = np.concatenate((test, np.zeros((len(source) - len(test), test.shape[1]))))
        self._meter.take(heeded, test)
        self._peak.process(test)
        for meter, samples in zip(self._spectra, (source, test), strict=True):
            meter.process(samples)

    def _bandwidth_hz(self) -> float:
        """Where the encoder stops, as its station has it; of an encoder that does not, what came back."""
        codec = self.path.codec
        if codec.coding:
            edge = encoder_cutoff(codec.container, codec.coding, codec.rate_hz, codec.channels)
            if not edge.full:
                return edge.edge_hz
        return comes_back_to_hz(self._spectra[0].result(), self._spectra[1].result())

    def rung(self) -> Rung:
        """What the passages showed."""
        codec, heard = self.path.codec, self._meter.result()
        rate = self._bytes * 8 / max(1, self._frames)
        if codec.coding and codec.coding.mode != "variable" and codec.coding.kbps:
            rate = codec.coding.kbps * 1000 / codec.rate_hz
        return Rung(
            codec.container, self.can.title, str(codec.coding), self.changes, rate * codec.rate_hz / 1000,
            math.ceil(rate * codec.frames / 8), heard, opinion_of(heard), self._peak.result().true_peak_dbtp,
            self._bandwidth_hz(),
        )  # fmt: skip


def _paths(delivery: Delivery, mix: Mix) -> Iterator[tuple[tuple[Capability, Changes], Path]]:
    """Every setting as a path: at 44.1 or 48 kHz, whichever is nearer to the mix, or a rate of the codec."""
    wanted = 44_100 if mix.facts.rate_hz % _FAMILY_OF_RATES == 0 else 48_000
    for can in CAPABILITIES.values():
        mode = can.ladder_mode
        for value in can.ladder:
            by_rate = dict(can.knobs).get(mode) == "kbps"
            changes = Changes(
                container=can.container, rate_hz=wanted if can.takes_rate(wanted) else "keep", level=LEAVE, mode=mode,
                kbps=value if by_rate else None, coding_quality=None if by_rate else value,
            )  # fmt: skip
            try:
                (file, *_) = resolve(changes.applied_to(delivery), mix)
            except Unsupported:
                # One channel, or a low rate, does not take every bit rate.
                continue
            yield (can, changes), file.path


def rung_path(delivery: Delivery, mix: Mix, container: str, mode: str | None, value: int | None) -> Path:
    """The path of one setting over the whole range. Raises: Unsupported ``ladder.no-rung``; as `resolve`."""
    for (can, changes), path in _paths(delivery, mix):
        if (can.container, changes.mode, changes.kbps or changes.coding_quality) == (container, mode, value):
            return path
    message = f"Setting not found for this mix: {container} {mode} {value}."
    raise Unsupported("ladder.no-rung", message, container=container)


def code_rung(path: Path, target: FilePath, should_stop: Callable[[], bool]) -> None:
    """Codes it. Raises: Cancelled ``ladder.cancelled``; whatever reading and coding raise."""
    walk([path.coded], {0: target}, should_stop=should_stop)


def _windowed(path: Path, passage: LadderPassage) -> tuple[Path, int]:
    """The path of a passage with what an encoder hears before it, and how many frames of the mix that is."""
    rate_hz = path.source.facts.rate_hz
    scale = rate_hz / path.codec.rate_hz
    first, last = (round(one * scale) for one in (passage.start_frame, passage.end_frame))
    last = min(last, path.cut.sounding_frames)
    start = max(0, first - round(RUN_IN_S * rate_hz))
    cut = replace(path.cut, window=(start, last), silence_before=0, silence_after=0)
    frames = round((last - start) / scale)
    codec = replace(path.codec, frames=frames, exact=False, loudness=False, chapters=(), picture="")
    return replace(path, cut=cut, codec=codec), first - start


def _read(path: FilePath) -> Block:
    with open_file(path, counted=False) as reader:
        return np.concatenate(list(reader.blocks()))
