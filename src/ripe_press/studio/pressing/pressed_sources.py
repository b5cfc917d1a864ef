"""Pressed files as sources: a stem of their mix, or a mix of their own on the shelf."""

from pathlib import Path

from ripe_press.core.errors import Conflict
from ripe_press.core.words import quoted
from ripe_press.studio.pressing.room import PressRoom
from ripe_press.studio.shelf import Arrival, Shelf
from ripe_press.studio.stems import StemBook


def put_back(stems: StemBook, press_room: PressRoom, mix_id: int, number: int, file_number: int) -> None:
    """Puts a pressed file beside a mix as a stem; it stays where it was pressed.

    Raises: NotFound ``pressing.unknown``, ``file.unknown``, ``file.gone``, ``mix.unknown``; Conflict
    ``stem.other-mix`` where the file was made of another mix.
    """
    pressing, report = press_room.pressing(number), press_room.file(number, file_number)
    if pressing.mix_id != mix_id:
        message = f"This file was made from {quoted(pressing.mix_title)}. Add it to that mix."
        raise Conflict("stem.other-mix", message, pressing=number)
    path = Path(report.path)
    stems.add(mix_id, path, path.name, _origin(number, pressing.mix_title), owned=False)


def as_new_mix(shelf: Shelf, press_room: PressRoom, number: int, file_number: int) -> Arrival:
    """Begins to bring a pressed file to the shelf as a mix that knows where it came from.

    Raises: NotFound ``pressing.unknown``, ``file.unknown``, ``file.gone``.
    """
    pressing, report = press_room.pressing(number), press_room.file(number, file_number)
    return shelf.fetch(report.path, _origin(number, pressing.mix_title)["sentence"])


def _origin(number: int, title: str) -> dict[str, str]:
    return {"kind": "pressed", "sentence": f"Pressed from {title}, pressing {number}."}
