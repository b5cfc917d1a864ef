"""Files of one pressing that would bear the same name: the fact in which they differ is added."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from ripe_press.core.engine.resolve import resolve
from ripe_press.core.naming import folded_name
from ripe_press.studio.planning.resolved import Resolved

FACTS = ("range", "channels", "brief", "level", "rate", "depth", "dither", "length")
"""Fields of a label pattern, in the order in which one is looked for that tells files apart."""


def told_apart(found: Sequence[Resolved]) -> list[Resolved]:
    """The files with names of their own: the first keeps its name, the others have one fact more in theirs.

    Folders of briefs do not count: the files may be copied or sent together. Files that differ in no such fact stay
    as they are; they are numbered.
    """
    same = defaultdict(list)
    for at, one in enumerate(found):
        same[_name_of(one)].append(at)
    named, taken = list(found), set(same)
    for group in same.values():
        if len(group) < 2:
            continue
        others = group[1:]
        for fact in FACTS:
            renamed = [_with(found[at], fact) for at in others]
            names = {_name_of(one) for one in renamed}
            if len(names) == len(others) and not names & taken:
                taken |= names
                for at, one in zip(others, renamed, strict=True):
                    named[at] = one
                break
    return named


def _name_of(one: Resolved) -> str:
    return folded_name(Path(one.planned.path.name.file_name))


def _with(one: Resolved, fact: str) -> Resolved:
    """The file with a fact at the end of its name."""
    wish = one.planned.wish
    pattern = wish.label_pattern if f"{{{fact}}}" in wish.label_pattern else f"{wish.label_pattern} {{{fact}}}"
    made = resolve(replace(wish, label_pattern=pattern), one.mix)
    return replace(one, planned=next(again for again in made if again.half == one.planned.half))
