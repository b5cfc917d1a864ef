"""A pressing: walk the tree, prove every file, and only then give it its name."""

import os
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import measure_edge_levels
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import Progress, Walker, WalkReport
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.measure.clipping import full_scale_of
from ripe_press.core.proof import Proof, prove
from ripe_press.core.rules.before import findings_before, range_measures
from ripe_press.core.rules.findings import Finding, Verdict, worst

UNFINISHED = ".pressing"
"""The ending of a file that has not been given its name yet."""


@dataclass(frozen=True, slots=True)
class PressOrder:
    """What is to be pressed: for each path its brief and the final place of its file."""

    paths: tuple[st.Path, ...]
    briefs: tuple[str, ...]
    targets: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class PressedFile:
    """A file that was made. ``path`` is its final place, or the place it was kept from when it may not leave."""

    path: str
    brief: str
    verdict: Verdict
    findings: tuple[Finding, ...]
    clipped_samples: int
    proof: Proof


def press(order: PressOrder, progress: Progress, should_stop: Callable[[], bool]) -> tuple[PressedFile, ...]:
    """Presses every path of the order and proves the files.

    A file is written under a temporary name beside its place, closed, synced, read back, and renamed only when
    its verdict is not *stop*; otherwise nothing is left.

    Raises: Conflict ``press.name-taken``, BadInput ``press.no-folder``, Interrupted, and whatever reading raises.
    """
    targets = [Path(target) for target in order.targets]
    _check_targets(targets)
    temporaries = {number: _temporary(target) for number, target in enumerate(targets)}
    (root,) = merge(order.paths)
    source = next(station for station in order.paths[0] if isinstance(station, st.Source))
    full_scale = full_scale_of(source.bit_depth, source.codec == "pcm-float")
    report = Walker(root, temporaries, full_scale).run(progress, should_stop)
    try:
        return tuple(
            _finish(order, number, targets[number], temporaries[number], report) for number in range(len(order.paths))
        )
    finally:
        for temporary in temporaries.values():
            temporary.unlink(missing_ok=True)


def _finish(order: PressOrder, number: int, target: Path, temporary: Path, report: WalkReport) -> PressedFile:
    path = order.paths[number]
    codec = next(station for station in path if isinstance(station, st.Codec))
    cut = next(station for station in path if isinstance(station, st.Range))
    source = next(station for station in path if isinstance(station, st.Source))
    clipping, clipped = report.range_clipping[cut], report.clipped_samples.get(number, 0)
    proof = prove(temporary, codec, clipped, clipping.overs)
    measures = range_measures(clipping, report.range_silence[cut], measure_edge_levels(source, cut))
    findings = proof.findings + findings_before(path, measures)
    verdict = worst(findings)
    if verdict != "stop":
        _rename(temporary, target)
    return PressedFile(str(target), order.briefs[number], verdict, findings, clipped, proof)


def _check_targets(targets: list[Path]) -> None:
    for target in targets:
        if not target.parent.is_dir():
            message = f"There is no folder {str(target.parent)!r}. Make it, or choose another."
            raise BadInput("press.no-folder", message, folder=str(target.parent))
        if target.exists() or targets.count(target) > 1:
            message = f"{target.name!r} is already in {str(target.parent)!r}. Choose another name or folder."
            raise Conflict("press.name-taken", message, path=str(target))


def _temporary(target: Path) -> Path:
    return target.with_name(f".{target.name}.{secrets.token_hex(4)}{UNFINISHED}")


def sweep(folder: Path) -> None:
    """Removes unfinished files that a killed worker left in a folder nobody is pressing into."""
    for leftover in folder.rglob(f".*{UNFINISHED}"):
        leftover.unlink(missing_ok=True)


def _rename(temporary: Path, target: Path) -> None:
    """Gives the file its name without ever replacing another, where the file system can promise that."""
    try:
        os.link(temporary, target)
    except FileExistsError as error:
        message = f"{target.name!r} appeared in {str(target.parent)!r} while it was pressed. Press again."
        raise Conflict("press.name-taken", message, path=str(target)) from error
    except OSError:
        # File systems without links (memory cards): the name was free when the pressing began.
        temporary.rename(target)
    descriptor = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)
