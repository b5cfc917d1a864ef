"""The walk: every source is read once, every station of the tree does its work once, every leaf writes its file."""

import os
import threading
from collections.abc import Callable, Generator, Iterable, Mapping, Sequence
from concurrent.futures import FIRST_EXCEPTION, ThreadPoolExecutor, wait
from dataclasses import replace
from pathlib import Path as FilePath
from typing import Any

from ripe_press.core.blocks import BLOCK_FRAMES, Progress, no_progress
from ripe_press.core.engine.preroll import behind
from ripe_press.core.engine.sinks import (
    Branches,
    GuardedSink,
    Metered,
    NullSink,
    ProcessedSink,
    Sink,
    Threaded,
    Written,
)
from ripe_press.core.engine.tree import Node, merge
from ripe_press.core.errors import Cancelled
from ripe_press.core.signal.edges import Cutter
from ripe_press.core.sources.source import AudioSource, Sharing
from ripe_press.core.stations import PathReport, Signal, Station, Tap
from ripe_press.core.stations.report import StationPeakMeter

NO_FILES: Mapping[int, FilePath] = {}


def walk(
    lines: Iterable[Iterable[Station]],
    targets: Mapping[int, FilePath] = NO_FILES,
    progress: Progress = no_progress,
    should_stop: Callable[[], bool] = lambda: False,
    faults: dict[int, Exception] | None = None,
    threads: bool = True,
) -> tuple[PathReport, ...]:
    """Walk lines of stations of any number of sources and return the readings of each.

    ``targets`` has, by the number of a line, the new file that its leaf writes. Sources are read side by side, as
    many as there are cores; those that are made of the same files go on in step, and each file is read once. On any
    error, and when stopped, no file is left. With ``faults`` an error ends the lines that it belongs to and no others:
    it is put there by their numbers, and their files are not left. Without
    ``threads`` each source's tree is walked on one thread.

    Raises: Interrupted ``press.cancelled`` when ``should_stop`` answers yes; whatever readers and writers raise.
    """
    lines = [tuple(line) for line in lines]
    failed = threading.Event()
    walkers = in_step([Walker(root, targets, faults, threads) for root in merge(lines)])
    counted = _Together(walkers, progress)
    if len(walkers) == 1:
        readings = walkers[0].run(counted.of(0), should_stop)
    else:
        readings = _side_by_side(walkers, counted, lambda: failed.is_set() or should_stop(), failed, targets)
    return _reports(len(lines), readings, faults or {})


class Walker:
    """Runs the tree of one source."""

    def __init__(
        self,
        root: Node,
        targets: Mapping[int, FilePath],
        faults: dict[int, Exception] | None = None,
        threads: bool = True,
    ) -> None:
        self._root = root
        self._targets = targets
        self._faults = faults
        self._threads = threads
        begins = root.station.begin(0)
        reads = [node.station.reads(behind(node, begins.rate_hz)) for node in root.children]
        self._start = min((one[0] for one in reads if one), default=0)
        self._end = max((one[1] for one in reads if one), default=0)
        self._begins = replace(begins, start_frame=self._start)
        self._readings: list[Reading] = []
        self._opened: list[Sink] = []

    @property
    def frames(self) -> int:
        """How many it reads."""
        return self._end - self._start

    @property
    def files(self) -> frozenset[AudioSource]:
        """What it reads from disk."""
        return self._begins.source.files

    @property
    def stretch(self) -> tuple[int, int]:
        """From which frame up to which it reads."""
        return self._start, self._end

    @property
    def readings(self) -> "list[Reading]":
        """The readings after the walk."""
        return self._readings

    def run(self, progress: Progress, should_stop: Callable[[], bool]) -> "list[Reading]":
        """Reads, processes, writes. On any error, and when stopped, no file is left. Raises: as `walk`."""
        for _ in self.steps(progress, should_stop):
            pass
        return self._readings

    def steps(
        self,
        progress: Progress,
        should_stop: Callable[[], bool],
        sharing: Sharing | None = None,
        block_frames: int = BLOCK_FRAMES,
    ) -> Generator[None, None, None]:
        """The same block by block. Closed before its end, it leaves no file."""
        try:
            yield from self._steps(progress, should_stop, sharing, block_frames)
        except Cancelled:
            raise
        except Exception as error:
            if self._faults is None:
                raise
            # What every line of this source goes through.
            for path in self._root.paths:
                self._faults.setdefault(path, error)

    def _steps(
        self, progress: Progress, should_stop: Callable[[], bool], sharing: Sharing | None, block_frames: int
    ) -> Generator[None, None, None]:
        with self._begins.source.open(sharing) as reader:
            try:
                sink = self._children(self._root, self._begins, threaded=False)
                if sharing and self._threads:
                    # The thread that reads serves several of them.
                    sink = Threaded(sink, "step")
            except BaseException:
                for leaf in self._opened:
                    leaf.abort()
                raise
            try:
                done = 0
                for block in reader.blocks(self._start, self._end, block_frames):
                    if should_stop():
                        message = "Cancelled."
                        raise Cancelled("press.cancelled", message)
                    sink.put(block)
                    done += len(block)
                    progress(done, self.frames)
                    yield
                    if self._faults and all(path in self._faults for path in self._root.paths):
                        break
                sink.end()
                sink.wait()
            except BaseException:
                sink.abort()
                raise

    def _children(self, node: Node, here: Signal, threaded: bool) -> Sink:
        """What follows a node. A thread begins where the tree branches."""
        branching = len(node.children) > 1
        sinks = [self._build(child, here, branching, threaded and not branching) for child in node.children]
        return sinks[0] if len(sinks) == 1 else Branches(sinks)

    def _build(self, node: Node, here: Signal, branching: bool, threaded: bool) -> Sink:
        """The sink of a node and all behind it."""
        station = node.station
        here = replace(here, behind=behind(node, here.rate_hz))
        begins = self._threads and not threaded and (branching or station.apart)
        trimmer = here.trimmer() if station.trims else None
        sink = self._sink_of(node, here.trimmed if station.trims else here, threaded or begins)
        if trimmer:
            sink = ProcessedSink(trimmer, sink)
        if begins:
            sink = Threaded(sink, station.kind)
        return sink if self._faults is None else GuardedSink(sink, node.paths, self._faults)

    def _sink_of(self, node: Node, here: Signal, threaded: bool) -> Sink:
        station = node.station
        work, after = station.work(here), station.after(here)
        self._readings += [(node.paths, name, read) for name, read in work.readings]
        behind_it: list[Sink] = []
        if station.writes:
            # Everything behind the file is written into it once it is closed.
            behind_it = [self._written(station, node.paths[0])]
        elif node.children:
            behind_it = [self._children(node, after, threaded)]
        taps = [*work.taps, *_peak_tap(station, after, len(work.processors))]
        for at in reversed(range(len(work.processors) + 1)):
            signal = after if at else here
            behind_it[:0] = [self._tapped(tap, node, signal) for tap in taps if tap.behind == at]
            if at:
                behind_it = [ProcessedSink(work.processors[at - 1], _one_of(behind_it))]
        return _one_of(behind_it)

    def _written(self, station: Station, path: int) -> Sink:
        """The file of a path as a sink; if it cannot be opened, only this path fails, with its fault reported."""
        try:
            self._opened.append(written := Written(station.writer(self._targets[path])))
        except Exception as error:
            if self._faults is None:
                raise
            self._faults.setdefault(path, error)
            return NullSink()
        return written

    def _tapped(self, tap: Tap, node: Node, signal: Signal) -> Sink:
        metered = Metered(tap.meter)
        if tap.name:
            self._readings.append((node.paths, tap.name, lambda: metered.result))
        sink: Sink = metered
        if tap.alone and signal.context:
            # The cut alone, without the audio around it.
            sink = ProcessedSink(Cutter(signal.channels, signal.lead, signal.lead + signal.frames), sink)
        return Threaded(sink, tap.name) if tap.threaded and self._threads else sink


class SharedWalk:
    """Walkers whose sources are made of the same files: one thread reads those once, and serves all of them."""

    def __init__(self, walkers: Sequence[Walker]) -> None:
        self._walkers = walkers

    @property
    def frames(self) -> int:
        """How many they read, each for itself."""
        return sum(one.frames for one in self._walkers)

    def run(self, progress: Progress, should_stop: Callable[[], bool]) -> "list[Reading]":
        """Reads, processes, writes, a block of each in turn. Raises: as `walk`."""
        counted = _Together(self._walkers, progress)
        # As much is held at a time as of one source, or little more.
        block_frames = max(BLOCK_FRAMES // len(self._walkers), LEAST_BLOCK_FRAMES)
        with Sharing() as sharing:
            going = [
                one.steps(counted.of(number), should_stop, sharing, block_frames)
                for number, one in enumerate(self._walkers)
            ]
            try:
                while going:
                    going = [one for one in going if next(one, _ENDED) is not _ENDED]
                    sharing.seal()
            finally:
                for one in going:
                    one.close()
        return [reading for one in self._walkers for reading in one.readings]


LEAST_BLOCK_FRAMES = 16_384
_ENDED = object()


def in_step(walkers: Sequence[Walker]) -> list[Walker | SharedWalk]:
    """The walkers, with those together that read the same stretch of the same files."""
    groups: list[tuple[set[AudioSource], list[Walker]]] = []
    for walker in walkers:
        # One of them may bring together what stood apart until now.
        mine = [one for one in groups if one[0] & walker.files and one[1][0].stretch == walker.stretch]
        groups = [one for one in groups if one not in mine]
        files = set(walker.files).union(*(one[0] for one in mine))
        groups.append((files, [*(other for one in mine for other in one[1]), walker]))
    return [SharedWalk(members) if len(members) > 1 else members[0] for _, members in groups]


Reading = tuple[tuple[int, ...], str, Callable[[], Any]]
"""Of which paths, what it is called in their reports, and how it is read once the walk is done."""


def _peak_tap(station: Station, after: Signal, behind: int) -> list[Tap]:
    """What looks how high a station raises the signal that integers are made of later."""
    if not station.computes or station.writes or after.integers:
        return []
    return [Tap("peaks", StationPeakMeter(station.kind, after.channels), behind)]


def _one_of(sinks: list[Sink]) -> Sink:
    return sinks[0] if len(sinks) == 1 else Branches(list(sinks))


def _reports(count: int, readings: Iterable[Reading], faults: Mapping[int, Exception]) -> tuple[PathReport, ...]:
    found: list[dict[str, Any]] = [{} for _ in range(count)]
    for paths, name, read in readings:
        whole = [path for path in paths if path not in faults]
        value = read() if whole else None
        for path in whole:
            # A path can have several limiters; of other readings, the one nearest to the file counts.
            if name == "reductions":
                found[path][name] = (*found[path].get(name, ()), value)
            elif name == "peaks":
                # A station is read once all behind it are.
                found[path][name] = (value, *found[path].get(name, ()))
            else:
                found[path].setdefault(name, value)
    return tuple(PathReport(**one) for one in found)


class _Together:
    """One progress of several walks."""

    def __init__(self, walkers: "Sequence[Walker | SharedWalk]", progress: Progress) -> None:
        self._done = [0] * len(walkers)
        self._total = sum(one.frames for one in walkers)
        self._progress = progress
        self._lock = threading.Lock()

    def of(self, number: int) -> Progress:
        """The progress of one of them."""

        def tell(done: int, _total: int) -> None:
            with self._lock:
                self._done[number] = done
                self._progress(sum(self._done), self._total)

        return tell


def _side_by_side(
    walkers: "Sequence[Walker | SharedWalk]",
    counted: _Together,
    should_stop: Callable[[], bool],
    failed: threading.Event,
    targets: Mapping[int, FilePath],
) -> list[Reading]:
    with ThreadPoolExecutor(min(len(walkers), os.cpu_count() or 1), "walk") as pool:
        running = [pool.submit(one.run, counted.of(number), should_stop) for number, one in enumerate(walkers)]
        wait(running, return_when=FIRST_EXCEPTION)
        errors = [found for one in running if one.done() and (found := one.exception())]
        if errors:
            failed.set()
            wait(running)
            # Walks that had ended already wrote whole files; without the others they are of no use.
            for target in targets.values():
                target.unlink(missing_ok=True)
            raise errors[0]
        return [reading for one in running for reading in one.result()]
