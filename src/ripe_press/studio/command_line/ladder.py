"""The codec comparison on the command line."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from ripe_press.core.blocks import Progress
from ripe_press.core.briefs.library import BLANK
from ripe_press.core.engine.resolve import mix_of_file
from ripe_press.core.ladder import climb
from ripe_press.core.requests.edges import Stretch
from ripe_press.core.requests.from_command_line import parse_changes
from ripe_press.core.sources.source import facts_of_file
from ripe_press.studio.command_line.requests import RangeRequest, frames_of
from ripe_press.studio.listening import ladder_report


def ladder_of(
    path: Path,
    wish: RangeRequest,
    progress: Progress,
    should_stop: Callable[[], bool] = lambda: False,
    container: str = "",
) -> dict[str, Any]:
    """The report of a ladder over a range of a file; it begins with a ``container`` that is asked for.

    Raises: as `climb`; Unreadable; BadInput ``container.unknown``.
    """
    facts = facts_of_file(path, wish.downmix)
    first, last = frames_of(wish, facts) if wish.start or wish.end else (0, facts.frames)
    delivery = parse_changes(container=container).applied_to(BLANK.delivery(Stretch(first, last), facts))
    return ladder_report(climb(delivery, mix_of_file(facts, path.stem), should_stop, progress))
