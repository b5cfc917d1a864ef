"""A pressing: walk the tree, prove every file, and only then give it its name."""

import os
import secrets
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.briefs.library import Brief
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import measure_edge_levels
from ripe_press.core.engine.levels import settle_levels
from ripe_press.core.engine.resolve import NO_FINISH
from ripe_press.core.engine.size import Forecast, forecast_size
from ripe_press.core.engine.tree import merge
from ripe_press.core.engine.walker import Progress, Walker, WalkReport
from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.capabilities import CAPABILITIES
from ripe_press.core.measure.clipping import full_scale_of
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.proof import Promise, Proof, prove
from ripe_press.core.rules.before import findings_before, range_measures
from ripe_press.core.rules.brief import (
    Expected,
    clips_as_set_out,
    findings_for_brief,
    finish_left_out,
    limited_hard,
    mono_cancels,
    rounded_without_dither,
)
from ripe_press.core.rules.files import becomes_rf64, clips_when_decoded, findings_for_tags
from ripe_press.core.rules.findings import Finding, Verdict, worst
from ripe_press.core.signal.channels import mono_loss_db
from ripe_press.core.tags.sheet import FileTags
from ripe_press.core.tags.write import write_tags

UNFINISHED = ".pressing"
"""The ending of a file that has not been given its name yet."""


@dataclass(frozen=True, slots=True)
class PressOrder:
    """What is to be pressed: for each path its brief and the final place of its file."""

    paths: tuple[st.Path, ...]
    briefs: tuple[Brief, ...]
    targets: tuple[str, ...]
    finish: st.Finish = NO_FINISH
    """The finishing chain of the mix, whether a path takes it or not."""
    replaces: tuple[bool, ...] = ()
    """Whether the file of a path may take the place of one that is there; empty means that none may."""
    forecasts: tuple[Forecast | None, ...] = ()
    """The sizes that were told beforehand; where there is none, what can be said without a trial."""

    def may_replace(self, number: int) -> bool:
        """Whether the file of a path may take the place of one that is there."""
        return bool(self.replaces) and self.replaces[number]


@dataclass(frozen=True, slots=True)
class PressedFile:
    """A file that was made. ``path`` is its final place, or the place it was kept from when it may not leave."""

    path: str
    brief: str
    verdict: Verdict
    findings: tuple[Finding, ...]
    clipped_samples: int
    proof: Proof
    gain_db: float | None = None
    reduction_db: float | None = None
    """The deepest gain reduction of a limiter, where there is one."""
    forecast: Forecast | None = None


def press(order: PressOrder, progress: Progress, should_stop: Callable[[], bool]) -> tuple[PressedFile, ...]:
    """Presses every path of the order and proves the files.

    A file is written under a temporary name beside its place, closed, synced, read back, and renamed only when
    its verdict is not *stop*; otherwise nothing is left.

    Raises: Conflict ``press.name-taken``, BadInput ``press.no-folder``, Interrupted, and whatever reading raises.
    """
    targets = [Path(target) for target in order.targets]
    _check_targets(targets, order)
    temporaries = {number: _temporary(target) for number, target in enumerate(targets)}
    settled = settle_levels(order.paths, should_stop)
    order = replace(order, paths=settled)
    (root,) = merge(order.paths)
    source = next(station for station in order.paths[0] if isinstance(station, st.Source))
    full_scale = full_scale_of(source.bit_depth, source.codec == "pcm-float")
    report = Walker(root, temporaries, full_scale).run(progress, should_stop)
    try:
        for number, path in enumerate(order.paths):
            _tag(temporaries[number], path, report.measured.get(number))
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
    brief = order.briefs[number]
    level = next((station for station in path if isinstance(station, st.Level)), None)
    require = brief.require
    lossy = CAPABILITIES[codec.container].lossy
    loudness = lossy or require.true_peak_max_dbtp is not None or require.loudness_lufs is not None
    tags = next((station.content for station in path if isinstance(station, st.Tags)), FileTags())
    forecast = (order.forecasts[number] if order.forecasts else None) or forecast_size(path)
    promise = Promise(report.fingerprints.get(number), level, loudness, tags, forecast)
    changed = any(isinstance(station, st.Level | st.Finish) for station in path)
    proof = prove(temporary, codec, clipped, clipping.overs + int(changed), promise)
    reduction = report.reductions_db.get(number)
    deepest = float(reduction.min(initial=0.0)) if reduction is not None else None
    sides = report.stereo.get(number)
    loss = mono_loss_db(sides.correlation, sides.balance_db) if sides else None
    expected = Expected(proof.bytes, proof.sample_peak_dbfs, proof.true_peak_dbtp, proof.integrated_lufs)
    measures = range_measures(clipping, report.range_silence[cut], measure_edge_levels(source, cut))
    set_out = (
        finish_left_out(path, order.finish), mono_cancels(path, loss), rounded_without_dither(path),
        limited_hard(deepest), clips_as_set_out(path, None, clipped), clips_when_decoded(codec, proof.true_peak_dbtp),
        becomes_rf64(codec, proof.bytes),
    )  # fmt: skip
    findings = (
        *proof.findings, *findings_before(path, measures), *(one for one in set_out if one),
        *findings_for_brief(brief, path, expected), *findings_for_tags(brief, codec, tags),
    )  # fmt: skip
    verdict = worst(findings)
    if verdict != "stop":
        _rename(temporary, target, order.may_replace(number))
    gain = level.gain_db if level else None
    return PressedFile(str(target), brief.id, verdict, findings, clipped, proof, gain, deepest, forecast)


def _tag(temporary: Path, path: st.Path, found: SignalResult | None) -> None:
    codec = next(station for station in path if isinstance(station, st.Codec))
    for station in path:
        if isinstance(station, st.Tags):
            write_tags(
                temporary, codec.container, codec.encoding, codec.rate_hz, codec.channels, station.content, found
            )


def _check_targets(targets: list[Path], order: PressOrder) -> None:
    for number, target in enumerate(targets):
        if not target.parent.is_dir():
            message = f"There is no folder {str(target.parent)!r}. Make it, or choose another."
            raise BadInput("press.no-folder", message, folder=str(target.parent))
        if (target.exists() and not order.may_replace(number)) or targets.count(target) > 1:
            message = f"{target.name!r} is already in {str(target.parent)!r}. Choose another name or folder."
            raise Conflict("press.name-taken", message, path=str(target))


def _temporary(target: Path) -> Path:
    return target.with_name(f".{target.name}.{secrets.token_hex(4)}{UNFINISHED}")


def sweep(folder: Path) -> None:
    """Removes unfinished files that a killed worker left in a folder nobody is pressing into."""
    for leftover in folder.rglob(f".*{UNFINISHED}"):
        leftover.unlink(missing_ok=True)


def _rename(temporary: Path, target: Path, replaces: bool) -> None:
    """Gives the file its name; another is replaced only when that was said, where the file system can promise that."""
    try:
        if replaces:
            temporary.replace(target)
        else:
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
