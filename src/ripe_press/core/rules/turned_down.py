"""The remedy of a file that is too loud at its peaks: a level for a delivery that leaves it as it is."""

from dataclasses import replace

from ripe_press.core.requests.delivery import Changes
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Remedy
from ripe_press.core.units import print_db

USUAL_DBTP = -1.0
"""Room enough for what codecs and converters add (common practice, no source)."""


def turned_down(case: Case, most_dbtp: float = USUAL_DBTP) -> Remedy | None:
    """Its true peak at a usual level, or lower where less is asked; nothing where the level is set already."""
    if case.proof is not None or case.wish.level.kind != "leave":
        return None
    target = min(USUAL_DBTP, most_dbtp)
    level = replace(case.wish.level, kind="true-peak", target=target)
    return Remedy(f"True peak at {print_db(target, 'dBTP')}", changes=Changes(level=level))
