"""The ticket: every planned file in words, forecasts and findings."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Protocol

from ripe_press.core.engine.levels import Shortfall, foreseen
from ripe_press.core.engine.resolve import Half
from ripe_press.core.engine.tree import node_numbers
from ripe_press.core.measure.signal import SignalResult
from ripe_press.core.naming import FilePlace
from ripe_press.core.requests.bench import TicketLine
from ripe_press.core.requests.brief import Brief
from ripe_press.core.requests.delivery import Delivery
from ripe_press.core.rules.case import Case, Expected, range_measures
from ripe_press.core.rules.findings import Finding, Verdict, worst
from ripe_press.core.rules.registry import judge
from ripe_press.core.sending.parcel import GOES_NOWHERE, Sends
from ripe_press.core.stations import Description, Path, PathFacts, describe
from ripe_press.core.stations.size.exact import forecast_size
from ripe_press.core.stations.size.forecast import Forecast
from ripe_press.core.timeline import TempoMap
from ripe_press.studio.planning.knowledge import mono_loss_of, silence_of
from ripe_press.studio.planning.planner import RequestedFile


@dataclass(frozen=True, slots=True)
class Row:
    """One file as the tree draws it: its stations in order, and its forecast."""

    id: str
    half: Half
    line: TicketLine
    brief: Brief
    delivery: Delivery
    path: Path
    """As expected: a level already reached is shown as unchanged."""
    asked: Path
    """As it is pressed: its level is settled then, on the signal itself."""
    stations: tuple[Description, ...]
    size: Forecast
    """From a test encoding where there was one, otherwise computed."""
    placed: FilePlace
    before: SignalResult
    """Measurements of the range in the mix."""
    forecast: SignalResult
    """The forecast of the file."""
    quietest_dbfs: float
    findings: tuple[Finding, ...]
    verdict: Verdict
    joined: tuple[str, ...] = ()
    """The stems that are added up for it, where there are several."""
    nodes: tuple[int, ...] = ()
    """One number a station: rows whose stations have the same number share that work and all before it."""


class KnownResults(Protocol):
    """What trials and pressings found of paths; None where there was none."""

    def known(self, path: Path) -> Forecast | None:
        """The size of a path by a trial of its sound."""
        ...

    def short(self, path: Path) -> Shortfall | None:
        """How far its level falls short."""
        ...


def rows_of(
    files: Iterable[RequestedFile],
    tried: KnownResults,
    tempo: TempoMap | None = None,
    channels_unheard: int = 0,
    sends: Callable[[Delivery], Sends] = lambda _wish: GOES_NOWHERE,
) -> tuple[Row, ...]:
    """The rows of a ticket, file by file, with numbers by which the tree is drawn."""
    rows = [_row(one, tried, tempo, channels_unheard, sends(one.planned.wish)) for one in files]
    numbers = node_numbers([row.path for row in rows])
    return tuple(replace(row, nodes=nodes) for row, nodes in zip(rows, numbers, strict=True))


def _row(
    wanted: RequestedFile, tried: KnownResults, tempo: TempoMap | None, channels_unheard: int, sends: Sends
) -> Row:
    planned, known, wish = wanted.planned, wanted.known, wanted.planned.wish
    asked = planned.path
    start, end = asked.cut.start_frame, asked.cut.read_end
    first, last = (min(end, max(start, one)) for one in wish.stretch.sounding or (start, end))
    quietest = known.quietest_half_second_dbfs(*((first, last) if first < last else (start, end)))
    before = known.edged(asked.cut) if asked.cut.computes and asked.cut.loops else known.signal(start, end)
    signal = _after_finish(before, asked)
    path = foreseen(planned, signal)
    size = tried.known(asked) or forecast_size(path.codec, path.tags.content)
    forecast = _expected(asked, signal)
    measures = range_measures(
        known.clipping(start, end), silence_of(known, asked.cut), known.edge_levels(asked.cut), wish.stretch
    )
    speech = None
    if wanted.brief.require.of_speech:
        gain_db = asked.target.first_gain(signal) if asked.target else 0.0
        speech = known.speech(start, end).raised(gain_db + (path.finish.gain_db if path.finish else 0.0))
        toned = (asked.cut.tone_before / known.facts.rate_hz, asked.cut.tone_after / known.facts.rate_hz)
        speech = replace(speech, head_s=speech.head_s + toned[0], tail_s=speech.tail_s + toned[1])
    findings, _ = judge(
        Case(
            path, asked, wish, wanted.brief, wanted.mix.finish,
            measures=measures,
            expected=Expected(size, forecast.sample_peak_dbfs, forecast.true_peak_dbtp, forecast.integrated_lufs),
            mono_loss_db=mono_loss_of(known), shortfall=tried.short(asked), signal=signal, placed=wanted.placed,
            channels_unheard=channels_unheard, sends=sends,
            tempo_found=None if wish.tempo or not wanted.brief.require.whole_bars else known.tempo(), speech=speech,
        ),
        "before",
    )  # fmt: skip
    words = PathFacts(
        quietest, wish.stretch.name, wish.part, signal, tempo, forecast=size, dither_asked=wish.dither,
        group=wish.group, back_off=wish.level.back_off and path.codec.lossy,
        pair=bool(planned.half), target=asked.target,
    )  # fmt: skip
    return Row(
        planned.id, planned.half, wanted.line, wanted.brief, wish, path, asked, describe(path, words), size,
        wanted.placed, before, forecast, quietest, findings, worst(findings), wanted.joined,
    )  # fmt: skip


def _after_finish(signal: SignalResult, path: Path) -> SignalResult:
    """About what leaves the finishing chain: its gain counts, its limiter holds peaks.

    Behind a conversion samples lie where the true peak may be: that bounds them.
    """
    if path.rate.computes:
        signal = replace(signal, sample_peak_dbfs=max(signal.sample_peak_dbfs, signal.true_peak_dbtp))
    if path.finish is None:
        return signal
    return _raised(signal, path.finish.gain_db, path.finish.ceiling_dbtp)


def _expected(path: Path, signal: SignalResult) -> SignalResult:
    """Expected sample peak, true peak and loudness, as far as gain alone determines them."""
    target = path.target
    if target is None:
        return signal
    return _raised(signal, target.first_gain(signal), target.ceiling_dbtp if target.limits else None)


def _raised(signal: SignalResult, gain_db: float, ceiling_dbtp: float | None) -> SignalResult:
    most = float("inf") if ceiling_dbtp is None else ceiling_dbtp
    peak, true_peak = signal.sample_peak_dbfs + gain_db, signal.true_peak_dbtp + gain_db
    return SignalResult(min(most, peak), min(most, true_peak), signal.integrated_lufs + gain_db)
