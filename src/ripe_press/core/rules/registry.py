"""Every rule, and judging by all of them."""

from ripe_press.core.rules.case import Case
from ripe_press.core.rules.checks import against, as_asked, before_press as set_out, brief, files, loops, mix, sending
from ripe_press.core.rules.findings import Check, Finding
from ripe_press.core.rules.rule import Rule, When

# What a recipient said of the last one comes first: nothing else is as sure.
_ROOMS = (sending, as_asked, against, mix, loops, set_out, files, brief)

RULES: tuple[Rule, ...] = tuple(one for room in _ROOMS for one in vars(room).values() if hasattr(one, "speaks"))
"""Whatever says that it speaks, room by room, in the order in which it is written down there."""


IDS: frozenset[str] = frozenset(one for rule in RULES for one in rule.ids)
"""Of all findings and checks of files."""


def judge(case: Case, when: When) -> tuple[tuple[Finding, ...], tuple[Check, ...]]:
    """Return the findings of a file before, after, or against its mix; and the passed checks."""
    said = [one for rule in RULES if when in rule.speaks for one in rule(case)]
    return tuple(one for one in said if isinstance(one, Finding)), tuple(one for one in said if isinstance(one, Check))
