"""The stations of a delivery's path, one module each, and the path itself."""

from ripe_press.core.stations.base import Description, PathFacts, Signal, Station, Tap, Work
from ripe_press.core.stations.channels import Channels
from ripe_press.core.stations.codec import Codec
from ripe_press.core.stations.depth import Depth
from ripe_press.core.stations.finish import NO_FINISH, Finish
from ripe_press.core.stations.level import Level, Target
from ripe_press.core.stations.measure import Measure
from ripe_press.core.stations.name import Name
from ripe_press.core.stations.path import Line, Path, describe
from ripe_press.core.stations.piece import Piece, Run
from ripe_press.core.stations.range import Range
from ripe_press.core.stations.rate import Rate
from ripe_press.core.stations.report import PathReport
from ripe_press.core.stations.source import Source
from ripe_press.core.stations.tags import Tags

__all__ = [
    "NO_FINISH",
    "Channels",
    "Codec",
    "Depth",
    "Description",
    "Finish",
    "Level",
    "Line",
    "Measure",
    "Name",
    "Path",
    "PathFacts",
    "PathReport",
    "Piece",
    "Range",
    "Rate",
    "Run",
    "Signal",
    "Source",
    "Station",
    "Tags",
    "Tap",
    "Target",
    "Work",
    "describe",
]  # fmt: skip
