"""Rules that compare the file on disk with its settings: each returns a finding or a passed check."""

import hashlib

from ripe_press.core.formats.capabilities import CAPABILITIES, STORED_BITS, codec_of
from ripe_press.core.proof.read_back import Proof
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Check, Finding, MeasureName
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.stations.level import LevelKind
from ripe_press.core.stations.size.exact import around
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.forms import carried
from ripe_press.core.tags.sheet import FIELDS
from ripe_press.core.units import print_count, print_db, print_rate
from ripe_press.core.words import LEVEL_UNITS

LEVEL_TOLERANCE_DB = 0.1


def _proof(case: Case) -> Proof | None:
    """The proof of a file that could be read."""
    return None if case.proof is None or case.proof.unreadable else case.proof


def _same(rule: str, title: str, fits: bool, got: str, wanted: str) -> Finding | Check:
    if fits:
        return Check(rule, title, got)
    sentence = f"{title}: {got}, expected {wanted}. Press again."
    return Finding(rule, "stop", sentence)


@speaks("after", "against")
def file_reads_back(case: Case) -> Said:
    """The file can be read at all."""
    if case.proof and case.proof.unreadable:
        sentence = f"Cannot read the pressed file: {case.proof.unreadable.rstrip('.')}. Press again."
        yield Finding("file_reads_back", "stop", sentence)


@speaks(
    "after",
    "against",
    ids=("rate_as_asked", "channels_as_asked", "depth_as_asked", "codec_as_asked", "frames_as_asked"),
)
def same_format(case: Case) -> Said:
    """Rate, channels, depth or codec, and length are those that were asked for."""
    if not (found := _proof(case)):
        return
    asked = case.path.codec
    yield _same(
        "rate_as_asked", "Sample rate", found.rate_hz == asked.rate_hz, print_rate(found.rate_hz),
        print_rate(asked.rate_hz),
    )  # fmt: skip
    yield _same(
        "channels_as_asked", "Channels", found.channels == asked.channels, print_count(found.channels, "channel"),
        print_count(asked.channels, "channel"),
    )  # fmt: skip
    bits, codec = STORED_BITS[asked.encoding], codec_of(asked.container, asked.encoding)
    if asked.lossy:
        yield _same("codec_as_asked", "Codec", found.codec == codec, found.codec, codec)
    else:
        yield _same(
            "depth_as_asked", "Bit depth", found.bit_depth == bits and found.codec == codec,
            f"{found.bit_depth} bits {found.codec}", f"{bits} bits {codec}",
        )  # fmt: skip
    yield _same(
        "frames_as_asked", "Length", found.frames == asked.frames, print_count(found.frames, "sample"),
        print_count(asked.frames, "sample"),
    )  # fmt: skip


@speaks("after")
def samples_as_they_came(case: Case) -> Said:
    """Where nothing was to change, the samples are those of the mix."""
    found, promised = _proof(case), case.seen.fingerprint if case.seen else None
    if not found or not promised:
        return
    if found.fingerprint == promised:
        yield Check("samples_as_they_came", "Samples", "bit-exact copy of the mix")
        return
    sentence = "Not bit-exact with the mix. Press again."
    yield Finding("samples_as_they_came", "stop", sentence)


@speaks("after", ids=("level_as_asked", "ceiling_held"))
def level_as_asked(case: Case) -> Said:
    """Targets are met on the file as written; one that only comes down, or shares its gain, may lie below.

    What a lossy codec gives back is judged for itself: a level is met at its input.
    """
    found, level = _proof(case), case.asked.target
    if not found or not level or case.path.codec.lossy or found.integrated_lufs is None or found.true_peak_dbtp is None:
        return
    figures: dict[LevelKind, tuple[str, float, MeasureName]] = {
        "peak": ("Sample peak", found.sample_peak_dbfs, "sample_peak"),
        "true-peak": ("True peak", found.true_peak_dbtp, "true_peak"),
        "loudness": ("Loudness", found.integrated_lufs, "loudness"),
    }
    title, value, measure = figures[level.level]
    unit = LEVEL_UNITS[level.level]
    off = value - level.target
    below_is_fine = level.only_down or bool(case.wish.group) or (level.level == "loudness" and not level.limit)
    # A rule of its own says why a level is out of reach; and half of a pair is as loud as the pair lets it be.
    below_is_known = case.shortfall is not None or case.path.sides is not None
    if abs(off) <= LEVEL_TOLERANCE_DB or (off < 0 and below_is_fine):
        yield Check("level_as_asked", title, f"{print_db(value, unit)}, target {print_db(level.target, unit)}", measure)
    elif value == float("-inf"):
        sentence = "Silent or too short to measure. Level unchanged."
        yield Finding("level_as_asked", "look", sentence, measure=measure)
    elif not (below_is_known and off < 0):
        sentence = f"{title} is {print_db(value, unit)}, target {print_db(level.target, unit)}. Check the level."
        yield Finding("level_as_asked", "look", sentence, measure=measure)
    if level.level == "loudness":
        ceiling, peak = print_db(level.ceiling_dbtp, "dBTP"), print_db(found.true_peak_dbtp, "dBTP")
        if found.true_peak_dbtp <= level.ceiling_dbtp + LEVEL_TOLERANCE_DB:
            yield Check("ceiling_held", "True peak", f"{peak}, ceiling {ceiling}", "true_peak")
        else:
            sentence = f"True peak {peak} exceeds the {ceiling} ceiling. Lower the level."
            yield Finding("ceiling_held", "look", sentence, measure="true_peak")


@speaks("after", "against")
def tags_read_back(case: Case) -> Said:
    """Every field, the picture and the markers are found in the file as they were written."""
    found = _proof(case)
    if not found or not found.embedded:
        return
    asked = case.path.codec
    can = CAPABILITIES[asked.container]
    tags = carried(asked.container, case.path.tags.content)
    wanted, kept = dict(tags.values), dict(found.embedded.tags)
    wrong = [FIELDS[field].named for field, text in wanted.items() if kept.get(field) != text]
    if tags.cover and found.cover_sha256 != hashlib.sha256(prepared_cover(tags.cover).data).hexdigest():
        wrong.append("cover picture")
    # Chapters of some containers count milliseconds.
    slack = 0 if can.markers in ("cue", "chunk") else -(-asked.rate_hz // 1000)
    markers = found.embedded.markers
    places = [abs(one.frame - other.frame) for one, other in zip(markers, tags.markers, strict=False)]
    if len(markers) != len(tags.markers) or any(off > slack for off in places):
        wrong.append("markers")
    if tags.loop and found.embedded.loop != tags.loop:
        wrong.append("loop points")
    if wrong:
        sentence = f"Tags differ after writing: {', '.join(wrong)}. Press again."
        yield Finding("tags_read_back", "look", sentence)
        return
    pieces = [print_count(len(wanted), "field")] if wanted else []
    pieces += ["cover"] if tags.cover else []
    pieces += [print_count(len(tags.markers), "marker")] if tags.markers else []
    pieces += ["loop points"] if tags.loop else []
    if pieces:
        yield Check("tags_read_back", "Tags", f"{', '.join(pieces)} verified")


@speaks("after")
def bit_rate_as_set(case: Case) -> Said:
    """What a lossy encoder spent on the sound; what the file has beside it, a cover above all, does not count."""
    found, asked = _proof(case), case.path.codec
    if found and asked.lossy and asked.frames:
        sound = found.bytes - around(asked, case.path.tags.content)[0]
        kbps = sound * 8 * asked.rate_hz / asked.frames / 1000
        yield Check("bit_rate_as_set", "Bit rate", f"{kbps:.0f} kbit/s, set to {asked.coding}")


@speaks("after", ids=("size_as_forecast", "size_beside_forecast"))
def size_as_forecast(case: Case) -> Said:
    """The size compared with the forecast: exact sizes must be met; a missed range says by how much."""
    found, forecast = _proof(case), case.forecast
    if not found or not forecast:
        return
    size, off = found.bytes, forecast.error_percent(found.bytes)
    if off and forecast.exact:
        sentence = f"{size:,} bytes, estimated {forecast.low:,}. Check the file before sending."
        yield Finding("size_as_forecast", "look", sentence)
    elif off:
        sentence = f"{size:,} bytes, {off:.1f} % off the estimate of {forecast}. No action needed."
        yield Finding("size_beside_forecast", "ready", sentence)
    else:
        estimate = "exactly as estimated" if forecast.exact else f"estimated {forecast}"
        yield Check("size_as_forecast", "Size", f"{size:,} bytes, {estimate}")


@speaks("after")
def backed_off(case: Case) -> Said:
    """A lossy file encoded again at a lower level, so that its decoded peaks stay below the ceiling."""
    if case.backed_off_db and case.asked.target:
        ceiling = print_db(case.asked.target.peak_max_dbtp, "dBTP")
        by = f"{case.backed_off_db:.1f} dB"
        yield Check("backed_off", "Automatic reduction", f"lowered by {by}; decoded peak below {ceiling}")
