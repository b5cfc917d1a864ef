"""Files of one pressing that would bear the same name: the fact in which they differ is added."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from ripe_press.core.engine.resolve import resolve
from ripe_press.core.naming import folded_name
from ripe_press.studio.planning.resolved import Resolved

FACTS = ("range", "channels", "brief", "level", "rate", "depth", "dither", "length")
"""Label pattern fields that distinguish files, in order of preference."""


def told_apart(found: Sequence[Resolved]) -> list[Resolved]:
    """The files with names of their own: the first keeps its name, the others have a fact more in theirs.

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
        chosen: tuple[str, ...] = ()
        apart = [found[at] for at in group]
        for fact in FACTS:
            # Only facts in which some of them differ, as many as it takes.
            renamed = [_with(found[at], (*chosen, fact)) for at in group]
            if len({_name_of(one) for one in renamed}) > len({_name_of(one) for one in apart}):
                chosen, apart = (*chosen, fact), renamed
        names = {_name_of(one) for one in apart[1:]}
        if len(names) == len(group) - 1 and not names & taken:
            taken |= names
            for at, one in zip(group[1:], apart[1:], strict=True):
                named[at] = one
    return named


def _name_of(one: Resolved) -> str:
    return folded_name(Path(one.planned.path.name.file_name))


def _with(one: Resolved, facts: Sequence[str]) -> Resolved:
    """The file with facts at the end of its name, but those that it has."""
    wish = one.planned.wish
    more = [f"{{{fact}}}" for fact in facts if f"{{{fact}}}" not in wish.label_pattern]
    made = resolve(replace(wish, label_pattern=" ".join((wish.label_pattern, *more))), one.mix)
    return replace(one, planned=next(again for again in made if again.half == one.planned.half))
