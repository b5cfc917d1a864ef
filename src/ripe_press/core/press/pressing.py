"""A pressing: walk the tree, prove every file as soon as it is closed, and only then give it its name."""

import os
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.disk import not_written
from ripe_press.core.engine.edges import EdgeLevels, measure_edge_levels
from ripe_press.core.engine.levels import Search, Settlement, Shortfall, settle_levels
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.engine.seams import own_sound
from ripe_press.core.engine.walker import walk
from ripe_press.core.errors import Cancelled, Conflict, RipePressError
from ripe_press.core.measure.clipping import NOTHING_CLIPPED, ClippingResult
from ripe_press.core.measure.places.silence import SilenceResult
from ripe_press.core.press.album_gain import AlbumGains
from ripe_press.core.press.core_schedule import lanes
from ripe_press.core.press.names import target_fault
from ripe_press.core.press.order import Event, FailedFile, OrderedFile, PressedFile, PressOrder, Tell
from ripe_press.core.proof.read_back import Proof, prove
from ripe_press.core.rules.case import Case, Expected, range_measures
from ripe_press.core.rules.findings import worst
from ripe_press.core.rules.registry import judge
from ripe_press.core.signal.channels import mono_loss_db
from ripe_press.core.sources.source import AudioSource
from ripe_press.core.stations import Path as StationPath, PathReport
from ripe_press.core.stations.report import NOTHING_SEEN
from ripe_press.core.stations.size.exact import forecast_size
from ripe_press.core.stations.size.forecast import known_size
from ripe_press.core.whole_files import give_name, temporary_beside
from ripe_press.core.words import quoted

MOST_BACK_OFFS = 4
_BACK_OFF_MARGIN_DB = 0.05


def press(order: PressOrder, tell: Tell, should_stop: Callable[[], bool]) -> tuple[PressedFile | FailedFile, ...]:
    """Render and verify every file of an order.

    A file is written under a temporary name, closed, synced, read back, and renamed unless its verdict is *stop*;
    otherwise nothing is kept. An error ends one file only.

    Raises: Conflict ``press.name-taken``, BadInput ``press.no-folder``, Interrupted; the error of the first file if all
    failed.
    """
    return _Pressing(order, tell, should_stop).run()


@dataclass(slots=True)
class _Making:
    """A file in progress: its path with the level settled, and its readings and proof so far."""

    number: int
    file: OrderedFile
    path: StationPath
    temporary: Path
    search: Search | None = None
    """Of a level whose gain was only foreseen."""
    short: Shortfall | None = None
    seen: PathReport = NOTHING_SEEN
    proof: Proof | None = None
    lowered_db: float = 0.0
    tries: tuple[tuple[float, float], ...] = ()
    """Of every file that was taken back: its gain in dB, and the true peak that it decoded to."""
    made: PressedFile | None = None
    fault: Exception | None = None

    @property
    def planned(self) -> PlannedFile:
        """What it is planned to be."""
        return self.file.planned

    @property
    def backs_off(self) -> bool:
        """Whether it is made again, quieter, when it decodes above its ceiling."""
        return bool(self.file.path.target) and self.file.planned.wish.level.back_off and self.path.codec.lossy

    def missed(self) -> bool:
        """Looks whether it was written with a gain that proved wrong; then it stands ready to be made again."""
        search, heard = self.search, self.seen.limited
        if not search or not heard or search.done:
            return False
        path, self.path = self.path, search.written(self.path, heard.integrated_lufs)
        self.short = search.shortfall
        if self.path is path:
            return False
        self.temporary.unlink(missing_ok=True)
        return True

    def lower(self, by_db: float) -> None:
        """Takes the file back, to be made again so much quieter, a limiter behind the gain too."""
        if self.path.settled:
            if self.proof and self.proof.true_peak_dbtp is not None:
                self.tries = (*self.tries, (self.path.settled.gain_db, self.proof.true_peak_dbtp))
            self.path = replace(self.path, level=self.path.settled.lowered(by_db))
            self.lowered_db += by_db
        self.temporary.unlink(missing_ok=True)


class _Pressing:
    """One run of an order."""

    def __init__(self, order: PressOrder, tell: Tell, should_stop: Callable[[], bool]) -> None:
        self._order = order
        self._listener = tell
        self._telling = threading.Lock()
        self._should_stop = should_stop
        self._making: list[_Making] = []
        self._stamps: dict[AudioSource, object] = {}
        self._albums = AlbumGains()

    def run(self) -> tuple[PressedFile | FailedFile, ...]:
        files = self._order.files
        temporaries = [temporary_beside(Path(file.target)) for file in files]
        self._making = [
            _Making(number, file, file.path, temporary)
            for number, (file, temporary) in enumerate(zip(files, temporaries, strict=True))
        ]
        for one in self._making:
            if not one.file.kept and (error := target_fault(one.file, self._order)):
                self._fail(one, error)
        self._stamp_sources()
        if self._open:
            settled = self._settled()
            for one in self._making:
                one.path, one.short = settled.paths[one.number], settled.shortfalls.get(one.number)
                one.search = settled.searches.get(one.number)
        # A group backs off together: until the last of it is proved, none of it has its name.
        groups = {one.file.planned.wish.group for one in self._making if one.backs_off} - {""}
        waits = [one.backs_off or one.file.planned.wish.group in groups for one in self._making]
        try:
            self._make(self._open, [not waits[one.number] for one in self._open])
            for _ in range(MOST_BACK_OFFS):
                lower = _too_high(self._open)
                if not lower:
                    break
                for one, by_db in lower:
                    one.lower(by_db)
                    self._albums.again(one)
                self._make([one for one, _ in lower], [False] * len(lower))
            for one in self._open:
                if waits[one.number]:
                    self._guarded(one, self._finish)
        finally:
            for temporary in temporaries:
                temporary.unlink(missing_ok=True)
        faults = [one.fault for one in self._making if one.fault]
        if faults and not self._open:
            raise faults[0]
        return tuple(one.made or _failed(one) for one in self._making if not one.file.kept)

    @property
    def _open(self) -> list[_Making]:
        """Files in progress that have not failed."""
        return [one for one in self._making if not one.fault and not one.file.kept]

    def _stamp_sources(self) -> None:
        """What each source is at the beginning; files of one that is not what it was fail."""
        for source in {one.path.source.of: None for one in self._open}:
            try:
                self._stamps[source] = source.stamp()
                if self._order.recheck:
                    source.check()
            except RipePressError as error:
                for one in self._open:
                    if one.path.source.of == source:
                        self._fail(one, error)

    def _settled(self) -> Settlement:
        # Files without a level target wait until the levels are settled.
        aiming = tuple(one.number for one in self._open if one.path.target)

        def progress(done: int, total: int) -> None:
            self._tell(Event(aiming, "settling", done, total))

        return settle_levels([file.planned for file in self._order.files], self._should_stop, progress)

    def _make(self, making: Sequence[_Making], named: Sequence[bool]) -> None:
        """Walks the paths lane by lane; a file is proved as soon as its lane is done, and named where it is free."""
        if not making:
            return
        cores = os.cpu_count() or 1
        apart = lanes([one.path for one in making], cores)
        # A proof waits for a core of its own: it would only slow down the encoder that everybody waits for.
        core = threading.BoundedSemaphore(cores)
        free = {one.number for one, name in zip(making, named, strict=True) if name}
        with (
            ThreadPoolExecutor(len(apart), "lane") as walking,
            ThreadPoolExecutor(cores, "proof") as proving,
        ):
            proofs: list[Future[None]] = []

            def make(at: int) -> None:
                lane = [making[number] for number in apart[at]]
                while lane:
                    with core:
                        made = self._walk(lane, len(apart) == 1)
                    walked, lane = lane, [one for one in made if one.missed()]
                    again = {one.number for one in lane}
                    good = self._albums.complete([one for one in walked if one.number not in again], self._making)
                    slowest_first = sorted(good, key=_cost_of_proof, reverse=True)
                    proofs.extend([proving.submit(prove_it, one) for one in slowest_first])

            def prove_it(one: _Making) -> None:
                with core:
                    self._guarded(one, self._prove_and_finish if one.number in free else self._prove)

            for lane in [walking.submit(make, at) for at in range(len(apart))]:
                lane.result()
            for proof in proofs:
                proof.result()

    def _walk(self, lane: Sequence[_Making], threads: bool) -> list[_Making]:
        """Walks files together; gives those that were made."""
        numbers = tuple(one.number for one in lane)

        def progress(done: int, total: int) -> None:
            self._tell(Event(numbers, "making", done, total))

        faults: dict[int, Exception] = {}
        targets = {at: one.temporary for at, one in enumerate(lane)}
        reports = walk([one.path for one in lane], targets, progress, self._should_stop, faults, threads)
        for at, (one, seen) in enumerate(zip(lane, reports, strict=True)):
            one.seen = seen
            if at in faults:
                self._fail(one, faults[at])
        return [one for one in lane if not one.fault]

    def _prove(self, one: _Making) -> None:
        if self._should_stop():
            message = "Cancelled."
            raise Cancelled("press.cancelled", message)
        album = self._albums.signal(one, self._making)
        one.path.tags.write(one.temporary, one.path.codec, one.seen.signal, album)
        require = one.file.brief.require
        asks = require.true_peak_max_dbtp is not None or require.loudness_lufs is not None
        loudness = one.path.codec.lossy or asks or one.file.path.target is not None

        def progress(done: int) -> None:
            self._tell(Event((one.number,), "reading-back", done, one.path.codec.frames))

        progress(0)
        one.proof = prove(
            one.temporary, loudness=loudness, samples=bool(one.seen.fingerprint), loop=_own_suddenness(one),
            speech=require.of_speech,            progress=progress,
        )  # fmt: skip

    def _prove_and_finish(self, one: _Making) -> None:
        self._prove(one)
        self._finish(one)

    def _finish(self, one: _Making) -> None:
        """Judge a file and give it its name, unless it is blocked."""
        source = one.path.source.of
        if source.stamp() != self._stamps[source]:
            name = Path(source.facts.path).name
            message = f"{quoted(name)} changed during pressing. Press again."
            raise Conflict("source.changed", message, path=source.facts.path)
        made = _judged(one)
        if made.verdict == "stop":
            self._tell(Event((one.number,), "left-out", made=made))
        else:
            self._tell(Event((one.number,), "naming", made=made))
            give_name(one.temporary, Path(one.file.target), one.file.replaces)
            self._tell(Event((one.number,), "named"))
        one.made = made

    def _guarded(self, one: _Making, work: Callable[[_Making], None]) -> None:
        """Whatever goes wrong with a file ends that file alone; only being cancelled ends all."""
        try:
            work(one)
        except Cancelled:
            raise
        except Exception as error:
            self._fail(one, error)

    def _fail(self, one: _Making, error: Exception) -> None:
        one.fault = error
        one.temporary.unlink(missing_ok=True)
        self._tell(Event((one.number,), "failed", failed=_failed(one)))

    def _tell(self, event: Event) -> None:
        with self._telling:
            self._listener(event)


def _own_suddenness(one: _Making) -> float | None:
    """How sudden the mix is at the ends of a loop; None where nothing is sudden."""
    cut = one.path.cut
    if one.path.walked or not (cut.loops or one.file.brief.require.whole_bars):
        return None
    return own_sound(one.path.source.of, cut.start_frame, cut.end_frame).ratio


def _cost_of_proof(one: _Making) -> int:
    """The longest first, so that the last one does not run alone: a lossy file is decoded and measured."""
    return one.path.codec.frames * (3 if one.path.codec.lossy else 1)


def _too_high(making: list[_Making]) -> list[tuple[_Making, float]]:
    """The files that decode above their ceiling, and by how many dB; with the whole group of such a file."""
    excess: dict[int, float] = {}
    for number, one in enumerate(making):
        target, peak = one.file.path.target, one.proof.true_peak_dbtp if one.proof else None
        if target and one.backs_off and peak is not None and peak > target.peak_max_dbtp:
            excess[number] = peak - target.peak_max_dbtp + _BACK_OFF_MARGIN_DB
    groups: dict[str, float] = {}
    for number, by_db in excess.items():
        if group := making[number].file.planned.wish.group:
            groups[group] = max(by_db, groups.get(group, 0.0))
    for number, one in enumerate(making):
        if one.file.path.target and one.file.planned.wish.group in groups:
            excess[number] = groups[one.file.planned.wish.group]
    return [(making[number], by_db) for number, by_db in sorted(excess.items())]


def _of_its_range(path: StationPath, seen: PathReport) -> tuple[ClippingResult, SilenceResult | None, EdgeLevels]:
    """The readings of a file's range; a piece is part of the walked range and has no edge of its own."""
    clipping, silence = seen.clipping or NOTHING_CLIPPED, seen.silence
    edges, run = measure_edge_levels(path.source.of, path.cut), path.walked
    if run:
        clipping = clipping.within(run.first_frame, run.first_frame + path.cut.frames)
        clipping = clipping.moved(path.cut.start_frame - run.first_frame)
        if silence:
            head = 0 if run.before else silence.head_frames
            silence = SilenceResult(path.cut.frames, head, 0 if run.behind else silence.tail_frames)
        edges = edges.joined(run.before, run.behind)
    return clipping, silence, edges


def _judged(made: _Making) -> PressedFile:
    file, path, seen, proof = made.file, made.path, made.seen, made.proof
    if proof is None:
        message = f"{file.target} was not walked"
        raise TypeError(message)
    clipping, silence, edges = _of_its_range(path, seen)
    case = Case(
        path, file.path, file.planned.wish, file.brief, file.chain,
        measures=range_measures(clipping, silence, edges, file.planned.wish.stretch),
        expected=Expected(known_size(proof.bytes), proof.sample_peak_dbfs, proof.true_peak_dbtp, proof.integrated_lufs),
        mono_loss_db=mono_loss_db(seen.stereo.correlation, seen.stereo.balance_db) if seen.stereo else None,
        shortfall=made.short, forecast=file.forecast or forecast_size(path.codec, path.tags.content),
        seen=seen, proof=proof, backed_off_db=made.lowered_db, speech=proof.speech,
    )  # fmt: skip
    findings, checks = judge(case, "after")
    curve = seen.reduction_db(path.codec.rate_hz)
    return PressedFile(
        file.target, file.brief.id, worst(findings), findings, checks, proof, seen,
        gain_db=path.settled.gain_db if path.settled else None,
        reduction_db=float(curve.min(initial=0.0)) if curve is not None else None,
        forecast=case.forecast, short=made.short, backed_off_db=made.lowered_db,
        tries=made.tries, line=file.planned.wish.id, sends_to=file.planned.wish.sends_to,
    )  # fmt: skip


def _failed(made: _Making) -> FailedFile:
    file, error = made.file, made.fault
    target = Path(file.target)
    if isinstance(error, RipePressError):
        # The name that it had in the interval was not visible.
        return FailedFile(
            file.target, file.brief.id, error.code, error.message.replace(made.temporary.name, target.name)
        )
    if isinstance(error, OSError):
        return FailedFile(file.target, file.brief.id, "press.not-written", not_written(target, error))
    fault = f"{type(error).__name__}: {error}"
    sentence = f"Internal error in {quoted(target.name)} ({fault}). Other files are complete."
    return FailedFile(file.target, file.brief.id, "press.fault", sentence)
