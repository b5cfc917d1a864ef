"""Whether a file of a pressing can have the place that it is ordered to."""

from pathlib import Path

from ripe_press.core.errors import BadInput, Conflict, RipePressError
from ripe_press.core.press.order import OrderedFile, PressOrder
from ripe_press.core.words import quoted


def target_fault(file: OrderedFile, order: PressOrder) -> RipePressError | None:
    """Why a file cannot have its place: Conflict ``press.name-taken``, BadInput ``press.no-folder``."""
    target = Path(file.target)
    if not target.parent.is_dir():
        message = f"Folder not found: {quoted(target.parent)}. Create it or choose another."
        return BadInput("press.no-folder", message, folder=str(target.parent))
    if (target.exists() and not file.replaces) or sum(one.target == file.target for one in order.files) > 1:
        message = f"{quoted(target.name)} exists in {quoted(target.parent)}. Choose another name or folder."
        return Conflict("press.name-taken", message, path=str(target))
    return None
