"""Rules that compare a file with its mix: each returns a finding or a passed check.

The causes that explain others come first: with another mix as source, nothing else is reported, and a lag, exchange or
gain removed for the comparison does not count again as a difference.
"""

from pathlib import Path

from ripe_press.core.proof.against import GAIN_TOLERANCE_DB, Against, SoundDifference
from ripe_press.core.proof.hearing.opinion import opinion_of
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Check, Finding
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.units import print_clock, print_count, print_db, print_hz
from ripe_press.core.words import quoted

NOISE_TOLERANCE_DB = 0.5
SPECTRUM_TOLERANCE_DB = 3.0
_BANDS, _LEAST_HZ, _NOTHING_DB = 24, 200.0, -190.0


def _comparable(case: Case) -> Against | None:
    """The comparison, if the file comes from this mix and can be aligned with it."""
    found = case.against
    return found if found and found.apart and found.lies.related else None


@speaks("against")
def same_source(case: Case) -> Said:
    """The sound is that of the mix."""
    found = case.against
    if not found or not found.apart or found.lies.correlation is None:
        return
    if found.lies.related:
        yield Check(
            "same_source", "Sound", f"matches the mix, {100 * max(0.0, found.lies.correlation):.2f} % correlation"
        )
    else:
        name = Path(case.path.source.facts.path).name
        sentence = f"Audio does not match {quoted(name)}. Press the right mix."
        yield Finding("same_source", "stop", sentence)


@speaks("against")
def starts_as_asked(case: Case) -> Said:
    """It begins where it should, to the sample."""
    if not (found := _comparable(case)):
        return
    lag, rate_hz = found.lies.lag_frames, case.path.codec.rate_hz
    if not lag:
        yield Check("starts_as_asked", "Starts and ends", "aligned to the sample")
        return
    far = f"{print_count(abs(lag), 'sample')} ({abs(lag) / rate_hz * 1000:.2f} ms) {'late' if lag > 0 else 'early'}"
    yield Finding("starts_as_asked", "stop", f"Starts {far}. Press again.", frame=None)


@speaks("against")
def sides_as_asked(case: Case) -> Said:
    """Left is left, right is right, and they are two."""
    if not (found := _comparable(case)) or case.path.codec.channels != 2:
        return
    if found.lies.swapped:
        yield Finding("sides_as_asked", "stop", "Left and right are swapped. Press again.")
    elif found.lies.mono:
        yield Finding("sides_as_asked", "stop", "Dual mono, but the mix is stereo. Press again.")
    else:
        yield Check("sides_as_asked", "Sides", "left and right as in the mix")


@speaks("against")
def polarity_kept(case: Case) -> Said:
    """Up is up."""
    if not (found := _comparable(case)):
        return
    if found.lies.inverted:
        yield Finding("polarity_kept", "stop", "Polarity is inverted. Press again.")
    else:
        yield Check("polarity_kept", "Polarity", "as in the mix")


@speaks("against")
def level_kept(case: Case) -> Said:
    """The file is as loud as the render of the mix."""
    found = _comparable(case)
    if not found or found.lies.mono:
        return
    if found.lies.gain_db:
        off = print_db(found.lies.gain_db, "dB") if abs(found.lies.gain_db) >= 0.1 else f"{found.lies.gain_db:+.2f} dB"
        yield Finding("level_kept", "stop", f"Level is {off} off the render. Press again.")
    else:
        yield Check(
            "level_kept",
            "Level",
            f"within {GAIN_TOLERANCE_DB:g} dB" if not case.path.codec.lossy else "as rendered",
        )


@speaks("against")
def nothing_dropped(case: Case) -> Said:
    """No gap of silence where the mix sounds."""
    found = _comparable(case)
    if not found or not found.apart:
        return
    gaps, rate_hz = found.apart.gaps, case.path.codec.rate_hz
    if gaps:
        first, frames = gaps[0]
        length = f"{frames / rate_hz * 1000:.1f} ms"
        sentence = (
            f"{print_count(len(gaps), 'dropout')}, first at {print_clock(first, rate_hz)} ({length}). Press again."
        )
        yield Finding("nothing_dropped", "stop", sentence, frame=first)
    else:
        yield Check("nothing_dropped", "Dropouts", "none")


@speaks("against")
def tops_kept(case: Case) -> Said:
    """Nothing was held at a level after it was made."""
    found = _comparable(case)
    if not found or not found.apart or found.apart.other_samples is None or found.lies.mono:
        return
    held = found.apart.held_samples
    if held:
        sentence = f"{print_count(held, 'sample')} clipped below the rendered peak. Press again."
        yield Finding("tops_kept", "stop", sentence)


@speaks("against")
def noise_as_meant(case: Case) -> Said:
    """In a file of fewer bits, the difference is the expected noise, in level and in spectrum."""
    found, depth = _comparable(case), case.path.depth
    if not found or not found.apart or not depth or depth.exact or found.lies.mono or found.lies.gain_db:
        return
    apart = found.apart
    words = "rounding" if depth.dither == "none" else f"{depth.dither.replace('-', ' ')} dither"
    if not (other := _other_noise(apart)):
        yield Check("noise_as_meant", "Noise", f"{print_db(apart.noise_dbfs)}: {words}, {_beside_noise(apart)}")
        return
    meant = f"expected {print_db(apart.meant_noise_dbfs)} ({words}, {depth.bits} bits){other}"
    sentence = f"Noise at {print_db(apart.noise_dbfs)}, {meant}: requantised. Press again."
    yield Finding("noise_as_meant", "stop", sentence)


def _beside_noise(apart: SoundDifference) -> str:
    """Intended differences other than the noise, as the end of a sentence."""
    return f"{print_count(apart.over_samples, 'clipped sample')}" if apart.over_samples else "nothing else"


def _other_noise(apart: SoundDifference) -> str:
    """Where noise lies that was not meant, in words that follow on; empty where it is that which was meant."""
    if apart.exact or apart.meant_spectrum is None:
        return ""
    if abs(apart.noise_dbfs - apart.meant_noise_dbfs) > NOISE_TOLERANCE_DB:
        return " overall"
    found, meant = (dict(one.curve_db(_BANDS)) for one in (apart.difference_spectrum, apart.meant_spectrum))
    off = {hz: abs(db - meant[hz]) for hz, db in found.items() if hz > _LEAST_HZ and meant[hz] > _NOTHING_DB}
    worst = max(off, key=lambda hz: off[hz], default=0.0)
    return f", {off[worst]:.1f} dB apart at {print_hz(worst)}" if off and off[worst] > SPECTRUM_TOLERANCE_DB else ""


@speaks("against")
def samples_as_made(case: Case) -> Said:
    """Every sample is the one that was made; where something else is wrong already, none is far off."""
    found = _comparable(case)
    if not found or not found.apart or found.apart.other_samples is None or found.lies.mono:
        return
    apart, rate_hz = found.apart, case.path.codec.rate_hz
    if apart.exact:
        yield Check("samples_as_made", "Samples", f"{print_count(apart.frames, 'sample')}, bit-exact with a new render")
        return
    other, first = apart.other_samples, apart.first_other_frame
    if found.lies.gain_db or apart.gaps or apart.held_samples or (case.path.depth and _other_noise(apart)):
        # That explains most of them already.
        other, first = apart.strange_samples, apart.first_strange_frame
    if other:
        place = f", first at {print_clock(first, rate_hz)}" if first is not None else ""
        differ = "differs" if other == 1 else "differ"
        sentence = f"{print_count(other, 'sample')} {differ} from the render{place}. Press again."
        yield Finding("samples_as_made", "stop", sentence, frame=first)


@speaks("against")
def difference_heard(case: Case) -> Said:
    """What a codec or a dither leaves, by a model of hearing."""
    found = _comparable(case)
    if not found or not found.apart or not found.apart.heard or found.lies.mono:
        return
    if found.apart.other_samples:
        # Other rules report its faults: this one is about intended differences.
        return
    opinion = opinion_of(found.apart.heard)
    if opinion.prediction in ("same", "none"):
        yield Check("difference_heard", "Audibility", opinion.sentence)
    else:
        yield Finding("difference_heard", "look", f"{opinion.sentence} Compare by ear ({'; '.join(opinion.reasons)}).")
