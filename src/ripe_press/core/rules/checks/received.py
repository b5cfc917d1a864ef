"""The check of a received file against a brief: no mix, no ticket, no server."""

from collections.abc import Iterator

from ripe_press.core.formats.capabilities import (
    BITS,
    CAPABILITIES,
    STORED_BITS,
    Container,
    Encoding,
    is_float,
    kinds_of,
)
from ripe_press.core.proof.read_back import Proof
from ripe_press.core.requests.brief import Brief
from ripe_press.core.rules.requirements import (
    Requirement,
    of_bit_rate_mode,
    of_format,
    of_length,
    of_level,
    of_size,
    of_speech,
    of_tags,
)
from ripe_press.core.units import print_count

_READABLE = "a readable file"


def measures_needed(brief: Brief) -> bool:
    """Whether true peak and loudness have to be measured to hold a file against a brief."""
    return brief.require.true_peak_max_dbtp is not None or brief.require.loudness_lufs is not None


def hold_file(brief: Brief, proof: Proof) -> Iterator[Requirement]:
    """Every requirement of a brief, and what a file that was read back has for it; that it can be read comes first."""
    if proof.unreadable:
        yield Requirement("file_reads_back", "File", _READABLE, "not readable", False, proof.unreadable, stops=True)
        return
    found = print_count(proof.frames, "sample")
    yield Requirement("file_reads_back", "File", _READABLE, found, True, "")
    kinds = _kinds(proof)
    title = CAPABILITIES[kinds[0]].title if kinds else f"{proof.codec} in {proof.container}"
    yield from of_format(brief.require, kinds, title, _encoding(proof), _kbps(proof), proof.rate_hz, proof.channels)
    yield from of_level(brief.require, proof.sample_peak_dbfs, proof.true_peak_dbtp, proof.integrated_lufs)
    yield from of_speech(brief.require, proof.speech)
    yield from of_bit_rate_mode(brief.require, proof.constant_bit_rate)
    yield from of_length(brief.require, proof.frames, proof.rate_hz)
    yield from of_size(brief.require, proof.bytes)
    given = [field for field, _ in proof.embedded.tags] if proof.embedded else []
    yield from of_tags(brief, None, given, bool(proof.cover_sha256))


def _kinds(proof: Proof) -> tuple[Container, ...]:
    broadcast = proof.embedded is not None and bool(proof.embedded.broadcast)
    return kinds_of(proof.container, proof.codec, broadcast)


def _encoding(proof: Proof) -> Encoding | None:
    if proof.codec not in ("pcm", "pcm-float"):
        return "lossy"
    floats = proof.codec == "pcm-float"
    fitting = (one for one in BITS if is_float(one) == floats and one != "s20" and STORED_BITS[one] == proof.bit_depth)
    return next(fitting, None)


def _kbps(proof: Proof) -> float | None:
    """The mean bit rate of a lossy file; its head and its tags count too, a few kilobytes mostly."""
    if proof.codec in ("pcm", "pcm-float") or not proof.frames:
        return None
    return (proof.bytes - proof.cover_bytes) * 8 * proof.rate_hz / proof.frames / 1000
