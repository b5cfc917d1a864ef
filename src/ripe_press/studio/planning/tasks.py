"""Work of previews and test encodings in worker processes: frozen values and paths in, frozen values out."""

from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.engine.levels import Shortfall, walk_settled
from ripe_press.core.engine.resolve import PlannedFile
from ripe_press.core.engine.walker import walk
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.stations import Path as StationPath
from ripe_press.core.trial import Trial, try_path
from ripe_press.studio.jobs import JobFolder


def cut_to_listen(path: StationPath, target: str, job: str) -> None:
    """Renders a path to a file that is followed while it grows."""
    folder = JobFolder(Path(job))
    walk([path], {0: Path(target)}, should_stop=folder.cancelled)


@dataclass(frozen=True, slots=True)
class LevelFound:
    """The gain of a settled level, the resulting measurements, and the gain reduction of every 1024 frames."""

    gain_db: float
    signal: SignalResult
    reduction_db: tuple[float, ...]
    short: Shortfall | None = None


def try_codec(path: StationPath) -> Trial:
    """Codes and decodes pieces of a path."""
    return try_path(path)


def try_level(file: PlannedFile) -> LevelFound:
    """Settles the level of a file and walks it, without writing anything."""
    path, seen, short = walk_settled(file)
    if seen.signal is None:
        message = "a level is measured behind it"
        raise TypeError(message)
    curve = seen.reduction_db(path.rate.to_hz)
    reduction = () if curve is None else tuple(round(float(one), 2) for one in curve)
    gain_db = path.settled.gain_db if path.settled else 0.0
    return LevelFound(gain_db, seen.signal, reduction, short)
