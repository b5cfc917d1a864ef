"""What of a mix a delivery is of: the mix itself, a stem, a sum of stems, or everything but some."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Annotated, ClassVar

from annotated_types import Ge, Le, Len, MaxLen

from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.formats.facts import SourceFacts
from ripe_press.core.words import quoted

MOST_STEMS = 128
MOST_STEM_NAME = 80


@dataclass(frozen=True, slots=True)
class Part:
    """A sum of stems or, with ``but``, all stems except those; empty means the mix."""

    stems: Annotated[tuple[Annotated[str, Len(1, MOST_STEM_NAME)], ...], MaxLen(MOST_STEMS)] = ()
    but: bool = False
    MIX_MINUS: ClassVar[str] = "mix-minus:"

    @property
    def is_mix(self) -> bool:
        """Whether it is the mix itself."""
        return not self.stems and not self.but

    @property
    def name(self) -> str:
        """What it is called, in names of files too: ``voice``, ``bass + drums``, ``all but voice``; the mix nothing."""
        together = " + ".join(self.stems)
        if self.but:
            return f"all but {together}" if together else "all stems"
        return together

    def chosen(self, names: Sequence[str]) -> tuple[str, ...]:
        """The stems that it takes, of those there are. Raises: NotFound ``stem.unknown``; BadInput ``stem.none``."""
        known = {one.casefold(): one for one in names}
        for one in self.stems:
            if one.casefold() not in known:
                there = f"Available: {', '.join(names)}." if names else "Add its stems first."
                message = f"Unknown stem {quoted(one)}. {there}"
                raise NotFound("stem.unknown", message, stem=one)
        meant = {one.casefold() for one in self.stems}
        found = tuple(one for one in names if (one.casefold() in meant) != self.but)
        if not found:
            message = f"No audio left without {' and '.join(self.stems) or 'any stem'}."
            raise BadInput("stem.none", message)
        return found

    def of(self, stems: "Sequence[StemNote]") -> tuple[str, ...]:
        """The names of the stems that it takes: everything *but* some is meant of those that sum to the mix.

        Raises: as `chosen`.
        """
        named = [one.name for one in stems]
        self.chosen(named)
        counted = [one.name for one in stems if not one.apart or not self.but]
        meant = {one.casefold() for one in self.stems}
        gone = Part(tuple(one for one in counted if one.casefold() in meant), self.but)
        return gone.chosen(counted)

    def renamed(self, old: str, new: str) -> "Part":
        """The same where a stem is called something else now."""
        return Part(tuple(new if one.casefold() == old.casefold() else one for one in self.stems), self.but)


THE_MIX = Part()


@dataclass(frozen=True, slots=True)
class StemNote:
    """A stem of a mix: name, source and alignment.

    ``late_frames`` samples (at the rate of the mix) are before the first sample of the mix; negative means silence in
    front. ``mono`` uses one channel of a dual-mono file.
    """

    name: Annotated[str, Len(1, MOST_STEM_NAME)]
    facts: SourceFacts
    late_frames: Annotated[int, Ge(-1_000_000_000), Le(1_000_000_000)] = 0
    mono: bool = False
    apart: bool = False
    """Whether it is not part of the stem sum: a capture of the mix, or an earlier pressing of it."""
    live_s: float = 0.0
    """Of one that has to be captured in a live pass first: how long that takes."""
    unit: str = ""
    """What it was, or will be, captured through."""


def parse_part(text: str, names: Sequence[str]) -> tuple[Part, ...]:
    """What ``--part`` means: ``all`` is one for each stem, ``mix`` the mix, ``sum`` all of them added up, else names
    joined by plus signs, or ``mix-minus:`` and names.

    Raises: as `Part.chosen`.
    """
    wish = text.strip()
    if wish.casefold() == "all":
        return tuple(Part((one,)) for one in Part((), but=True).chosen(names))
    if wish.casefold() == "mix":
        return (THE_MIX,)
    if wish.casefold() == "sum":
        part = Part((), but=True)
    elif wish.casefold().startswith(Part.MIX_MINUS):
        part = Part(_stems(wish[len(Part.MIX_MINUS) :], names), but=True)
    else:
        part = Part(_stems(wish, names))
    part.chosen(names)
    return (part,)


def _stems(text: str, names: Iterable[str]) -> tuple[str, ...]:
    """Names joined by plus signs, each as the stem has it; a stem may have a plus in its own name."""
    known = {one.casefold(): one for one in names}
    whole = text.strip()
    if whole.casefold() in known:
        return (known[whole.casefold()],)
    parts = [one.strip() for one in whole.split("+")]
    return tuple(known.get(one.casefold(), one) for one in parts if one)


def check_stems(stems: Sequence[StemNote]) -> None:
    """Raises: BadInput ``stem.twice`` where two have the same name, ``stem.too-many``."""
    if len(stems) > MOST_STEMS:
        message = f"{len(stems)} stems; maximum {MOST_STEMS}."
        raise BadInput("stem.too-many", message, stems=len(stems))
    names = [one.name.casefold() for one in stems]
    for one in stems:
        if names.count(one.name.casefold()) > 1:
            message = f"Two stems are named {quoted(one.name)}. Rename one."
            raise BadInput("stem.twice", message, stem=one.name)
