"""The drop-offs of the demo, with their simulated servers."""

from pathlib import Path

from ripe_press.core.errors import Interrupted
from ripe_press.core.sending.drop_off import DropOff
from ripe_press.studio.demo.stand_ins import StandIns
from ripe_press.studio.sending import DropOffBook

_NAMES = {"mail": "Mill Lane mailbox", "intake": "Headrace distribution", "sync": "Millpond"}


def begin_demo_drop_offs(book: DropOffBook, stand_ins: StandIns, folder: Path) -> None:
    """Start the simulated servers of the demo, and create their drop-offs once.

    A drop-off that the user changed or deleted is not restored; only the address of its server is updated.
    """
    there = {one.name: one for one in book.all()}
    first = not there
    plain = [
        DropOff("For listening", "folder", str(folder / "for listening"), sub_folder="{artist}"),
        DropOff("Music library", "library", str(folder / "music library")),
    ]
    for one in plain:
        if first:
            one.folder.mkdir(parents=True, exist_ok=True)
            book.add(one)
    for name, title in _NAMES.items():
        word = _begun(stand_ins, name, folder)["drop_off"]
        kind, _, place = str(word).partition(":")
        stored = there.get(title)
        made = DropOff(title, "mail" if kind == "mail" else "desk" if kind == "desk" else "sync", place)
        if first:
            book.add(made)
        elif stored and stored.settings["place"] != place:
            book.change(stored.id, DropOff(**{**stored.settings, "place": place}))


def _begun(stand_ins: StandIns, name: str, folder: Path) -> dict[str, str]:
    try:
        return stand_ins.begin(name, folder)
    except Interrupted:
        # Its usual port is taken: any other will do.
        return stand_ins.begin(name, folder, port=0)
