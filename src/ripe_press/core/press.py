"""A pressing: walk the tree, prove every file, and only then give it its name."""

import os
import secrets
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from ripe_press.core.briefs.library import Brief
from ripe_press.core.engine import stations as st
from ripe_press.core.engine.edges import measure_edge_levels
from ripe_press.core.engine.levels import Shortfall, settle_levels
from ripe_press.core.engine.resolve import NO_FINISH
from ripe_press.core.engine.size import Forecast, forecast_size, known_size, stations_of
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
    loudness_out_of_reach,
    mono_cancels,
    rounded_without_dither,
)
from ripe_press.core.rules.files import (
    becomes_rf64,
    clips_when_decoded,
    findings_for_tags,
    float_over_full_scale,
    played_by_few,
)
from ripe_press.core.rules.findings import Finding, Verdict, worst
from ripe_press.core.signal.channels import mono_loss_db
from ripe_press.core.tags.write import write_tags
from ripe_press.core.units import print_db

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
    short: frozenset[int] = frozenset()
    """The paths whose level was found to be out of reach, once levels are settled."""

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
    short: Shortfall | None = None
    """Where the loudness that was asked for is out of reach."""


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
    order = replace(order, paths=settled.paths, short=frozenset(settled.shortfalls))
    source = next(station for station in order.paths[0] if isinstance(station, st.Source))
    full_scale = full_scale_of(source.bit_depth, source.codec == "pcm-float")
    try:
        made = _make(order, temporaries, full_scale, progress, should_stop)
        asked = order
        for _ in range(MOST_BACK_OFFS):
            lower = _too_high(order, made)
            if not lower:
                break
            order = replace(order, paths=tuple(_lowered(path, lower.get(at)) for at, path in enumerate(order.paths)))
            for number in lower:
                temporaries[number].unlink()
            again = {number: temporaries[number] for number in lower}
            made |= _make(order, again, full_scale, lambda _done, _total: None, should_stop)
        return tuple(
            _finish(
                order,
                number,
                targets[number],
                temporaries[number],
                made[number],
                asked.paths[number],
                settled.shortfalls.get(number),
            )
            for number in range(len(order.paths))
        )
    finally:
        for temporary in temporaries.values():
            temporary.unlink(missing_ok=True)


MOST_BACK_OFFS = 4
_BACK_OFF_MARGIN_DB = 0.05


@dataclass(frozen=True, slots=True)
class _Made:
    """A file that lies under its temporary name: what was seen while it was made, and its proof."""

    report: WalkReport
    at: int
    """Its number in that walk."""
    proof: Proof
    forecast: Forecast


def _make(
    order: PressOrder,
    temporaries: dict[int, Path],
    full_scale: float,
    progress: Progress,
    should_stop: Callable[[], bool],
) -> dict[int, _Made]:
    """Walks some paths of the order, tags their files and proves them."""
    numbers = list(temporaries)
    (root,) = merge([order.paths[number] for number in numbers])
    targets = {at: temporaries[number] for at, number in enumerate(numbers)}
    report = Walker(root, targets, full_scale).run(progress, should_stop)
    for at, number in enumerate(numbers):
        _tag(temporaries[number], order.paths[number], report.measured.get(at))
    return {number: _proved(order, number, temporaries[number], report, at) for at, number in enumerate(numbers)}


def _proved(order: PressOrder, number: int, temporary: Path, report: WalkReport, at: int) -> _Made:
    path = order.paths[number]
    codec, tags = stations_of(path)
    cut = next(station for station in path if isinstance(station, st.Range))
    level = next((station for station in path if isinstance(station, st.Level)), None)
    require = order.briefs[number].require
    lossy = CAPABILITIES[codec.container].lossy
    loudness = lossy or require.true_peak_max_dbtp is not None or require.loudness_lufs is not None
    forecast = (order.forecasts[number] if order.forecasts else None) or forecast_size(path)
    split = any(isinstance(station, st.Channels) and station.split for station in path)
    short = number in order.short or split
    promise = Promise(report.fingerprints.get(at), level, loudness, tags, forecast, short)
    changed = any(isinstance(station, st.Level | st.Finish) and not station.idle for station in path)
    overs = report.range_clipping[cut].overs + int(changed)
    proof = prove(temporary, codec, report.clipped_samples.get(at, 0), overs, promise)
    return _Made(report, at, proof, forecast)


def _too_high(order: PressOrder, made: dict[int, _Made]) -> dict[int, float]:
    """By how many dB which files decode above their ceiling; the whole group of such a file, by the most of any."""
    excess: dict[int, float] = {}
    levels = {
        number: station
        for number, path in enumerate(order.paths)
        for station in path
        if isinstance(station, st.Level) and station.kind != "leave"
    }
    for number, level in levels.items():
        peak = made[number].proof.true_peak_dbtp
        if level.back_off and peak is not None and peak > level.peak_max_dbtp:
            excess[number] = peak - level.peak_max_dbtp + _BACK_OFF_MARGIN_DB
    for number, level in levels.items():
        others = [excess[at] for at in list(excess) if level.group and levels[at].group == level.group]
        if others:
            excess[number] = max(others)
    return excess


def _lowered(path: st.Path, by_db: float | None) -> st.Path:
    """The path with its level lower, a limiter behind it too: the same sound, so much quieter."""
    if by_db is None:
        return path
    return tuple(
        replace(one, gain_db=(one.gain_db or 0.0) - by_db, lowered_db=one.lowered_db + by_db, untouched=False)
        if isinstance(one, st.Level)
        else one
        for one in path
    )


def _finish(
    order: PressOrder,
    number: int,
    target: Path,
    temporary: Path,
    made: _Made,
    asked: st.Path,
    shortfall: Shortfall | None,
) -> PressedFile:
    path, report, at, proof = order.paths[number], made.report, made.at, made.proof
    codec, tags = stations_of(path)
    cut = next(station for station in path if isinstance(station, st.Range))
    source = next(station for station in path if isinstance(station, st.Source))
    level = next((station for station in path if isinstance(station, st.Level)), None)
    clipping, clipped = report.range_clipping[cut], report.clipped_samples.get(at, 0)
    brief = order.briefs[number]
    proof = replace(proof, checks=(*proof.checks, *_backed_off(path, asked)))
    reduction = report.reductions_db.get(at)
    deepest = float(reduction.min(initial=0.0)) if reduction is not None else None
    sides = report.stereo.get(at)
    loss = mono_loss_db(sides.correlation, sides.balance_db) if sides else None
    expected = Expected(known_size(proof.bytes), proof.sample_peak_dbfs, proof.true_peak_dbtp, proof.integrated_lufs)
    measures = range_measures(clipping, report.range_silence[cut], measure_edge_levels(source, cut))
    set_out = (
        finish_left_out(path, order.finish), mono_cancels(path, loss), rounded_without_dither(path),
        limited_hard(deepest), loudness_out_of_reach(brief, level, shortfall),
        clips_as_set_out(path, None, clipped), clips_when_decoded(codec, proof.true_peak_dbtp),
        becomes_rf64(codec, proof.bytes), played_by_few(codec),
        float_over_full_scale(codec, proof.sample_peak_dbfs),
    )  # fmt: skip
    findings = (
        *proof.findings, *findings_before(path, measures), *(one for one in set_out if one),
        *findings_for_brief(brief, path, expected), *findings_for_tags(brief, codec, tags),
    )  # fmt: skip
    verdict = worst(findings)
    if verdict != "stop":
        _rename(temporary, target, order.may_replace(number))
    gain = level.gain_db if level else None
    return PressedFile(
        str(target), brief.id, verdict, findings, clipped, proof, gain, deepest, made.forecast, shortfall
    )


def _backed_off(path: st.Path, asked: st.Path) -> tuple[tuple[str, str], ...]:
    """What is said of a file that was made lower than it was asked for."""
    pairs = [(one, other) for one, other in zip(path, asked, strict=True) if isinstance(one, st.Level)]
    for one, other in pairs:
        if isinstance(other, st.Level) and one != other:
            by = print_db((one.gain_db or 0.0) - (other.gain_db or 0.0), "dB")
            return (("Back-off", f"{by}, so that it decodes under {print_db(one.peak_max_dbtp, 'dBTP')}"),)
    return ()


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
