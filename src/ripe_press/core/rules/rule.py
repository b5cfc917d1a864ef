"""How a rule says when it speaks."""

from collections.abc import Callable, Iterator
from typing import Literal, Protocol, cast

from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Check, Finding

When = Literal["before", "after", "against"]
Said = Iterator[Finding | Check]


class Rule(Protocol):
    """A function of a case: it gives what it notices, and where it checks something, what came out well."""

    speaks: frozenset[When]
    ids: tuple[str, ...]
    """Of its findings and checks."""
    __name__: str

    def __call__(self, case: Case) -> Said:
        """What it has to say of a case."""
        ...


def speaks(*when: When, ids: tuple[str, ...] = ()) -> Callable[[Callable[[Case], Said]], Rule]:
    """Mark a rule for use before a file is made, after, or in the comparison with its mix; its id is its name."""

    def mark(rule: Callable[[Case], Said]) -> Rule:
        marked = cast("Rule", rule)
        marked.speaks = frozenset(when)
        marked.ids = ids or (marked.__name__,)
        return marked

    return mark
