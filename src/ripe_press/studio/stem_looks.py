"""What can only be known of a stem by reading it."""

from dataclasses import replace
from pathlib import Path

from ripe_press.core.formats.content import content_sum
from ripe_press.core.survey import measure_bits, sides_alike
from ripe_press.core.wishes.part import StemNote
from ripe_press.studio.measured import measured


def looked_at(stem: StemNote) -> StemNote:
    """A stem with what can only be known by reading it: its fingerprint, the bits in use, whether it is mono."""
    source = measured(stem.facts).source
    bits = measure_bits(source) if stem.facts.holds_integers or stem.facts.is_float else None
    facts = replace(stem.facts, effective_bits=bits, content_sum=content_sum(Path(stem.facts.path)))
    return replace(stem, facts=facts, mono=sides_alike(source))
