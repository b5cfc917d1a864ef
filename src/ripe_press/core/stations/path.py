"""A path: the stations of one file, each in its place."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from ripe_press.core.formats.fitting import bits_in_use
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.stations.base import Description, PathFacts, Station
from ripe_press.core.stations.channels import Channels
from ripe_press.core.stations.codec import Codec
from ripe_press.core.stations.depth import Depth
from ripe_press.core.stations.finish import Finish
from ripe_press.core.stations.level import Level, Target
from ripe_press.core.stations.measure import Measure
from ripe_press.core.stations.name import Name
from ripe_press.core.stations.piece import Piece, Run
from ripe_press.core.stations.range import Range
from ripe_press.core.stations.rate import Rate
from ripe_press.core.stations.size.exact import forecast_size
from ripe_press.core.stations.source import Source
from ripe_press.core.stations.tags import Tags

Line = tuple[Station, ...]
"""Stations in order, as they merge into a tree and are walked."""


@dataclass(frozen=True, slots=True)
class Path:
    """A place for every station, in the order in which sound goes through them; None where there is none.

    Iterated, it is the stations that sound goes through. A piece of a ``run`` has its own source, range and chain as
    its description; in the walk, those of the run are used.
    """

    source: Source
    cut: Range
    finish: Finish | None
    channels: Channels | None
    rate: Rate
    level: Target | Level | None
    sides: Channels | None
    """The half of a pair: its sides part behind the level that both share."""
    depth: Depth | None
    codec: Codec
    tags: Tags
    name: Name
    run: Run | None = None

    def __iter__(self) -> Iterator[Station]:
        behind = (self.level, self.sides, self.depth, self.piece, self.codec, self.tags, self.name)
        yield from self._to_level()
        yield from (one for one in behind if one is not None)

    @property
    def walked(self) -> Run | None:
        """The run that it is a piece of; None where it is walked alone, as short windows of it are for listening."""
        return None if self.cut.window else self.run

    @property
    def piece(self) -> Piece | None:
        """The piece cut from the run after the last processing station."""
        return self.walked.piece if self.walked else None

    @property
    def front(self) -> tuple[Source, Range, Finish | None]:
        """Source, range and chain as they are walked."""
        run = self.walked
        return (run.source, run.cut, run.finish) if run else (self.source, self.cut, self.finish)

    @property
    def target(self) -> Target | None:
        """The level that is not settled yet, if there is one."""
        return self.level if isinstance(self.level, Target) else None

    @property
    def settled(self) -> Level | None:
        """The level that is settled, if there is one."""
        return self.level if isinstance(self.level, Level) else None

    @property
    def sounding(self) -> Line:
        """Everything up to the making of integers."""
        return (*self._to_level(), *(one for one in (self.level, self.sides) if one is not None))

    @property
    def coded(self) -> Line:
        """Everything that decides what the file sounds like: all but tags and name."""
        return (*self.sounding, *(one for one in (self.depth, self.piece) if one), self.codec)

    @property
    def computed(self) -> str:
        """Why the samples before the making of integers are not those of the mix; empty where they are."""
        _, *changing = self.sounding
        return next((one.computes for one in reversed(changing) if one.computes), "")

    @property
    def changed(self) -> bool:
        """Whether a finish or a level changes how loud it is."""
        return any(one is not None and not one.idle for one in (self.front[2], self.level))

    def settled_about(self, heard: SignalResult) -> "Path":
        """The path with its level settled by gain alone, enough for test encodings."""
        target = self.target
        return replace(self, level=target.settled(target.first_gain(heard))) if target else self

    def before_level(self) -> Line:
        """Everything up to the level, and a meter there, which sketches where a limiter is to be foreseen."""
        level = self.target
        sketched = level.max_reduction_db if level and level.limits else None
        return (*self._to_level(), Measure(sketched))

    def behind_level(self, level: Level | None) -> Line:
        """Everything up to and with a level, and a meter behind it."""
        return (*self._to_level(), *((level,) if level else ()), Measure())

    @property
    def to_target(self) -> Line:
        """Everything that decides what a level comes to: all up to it, and itself."""
        return (*self._to_level(), *((self.level,) if self.level else ()))

    def _to_level(self) -> Line:
        return tuple(one for one in (*self.front, self.channels, self.rate) if one is not None)


def describe(path: Path, known: PathFacts) -> tuple[Description, ...]:
    """The words for every station of a path, in order."""
    source, *_ = path.front
    facts = source.facts
    used = bits_in_use(facts)
    holds = f"The mix holds {used}-bit integers" if used == facts.bit_depth else f"The mix uses only {used} bits"
    computed = path.computed or source.computes
    known = replace(
        known, rate_hz=facts.rate_hz, container=path.codec.container, computed=computed,
        holds=holds if path.depth and path.depth.exact else f"The mix has {facts.bit_depth} bits",
        target=known.target or path.target, forecast=known.forecast or forecast_size(path.codec, path.tags.content),
    )  # fmt: skip
    return tuple(station.words(known) for station in path)
