"""Carriers: one module for each kind of drop-off, that takes a file there and asks what became of it."""

from collections.abc import Callable

from ripe_press.core.sending.drop_off import DropOff
from ripe_press.studio.sending.carriers.carrier import Carrier
from ripe_press.studio.sending.carriers.folder import FolderCarrier
from ripe_press.studio.sending.carriers.intake import IntakeCarrier
from ripe_press.studio.sending.carriers.library import LibraryCarrier
from ripe_press.studio.sending.carriers.mailbox import MailCarrier
from ripe_press.studio.sending.carriers.synced import SyncedCarrier

__all__ = ["Carrier", "carrier_of"]


def carrier_of(drop_off: DropOff, password: str = "", should_stop: Callable[[], bool] = lambda: False) -> Carrier:
    """What carries files to a drop-off; ``password`` is what it is let in with, where it wants any. It waits for no
    answer any longer once it ``should_stop``.
    """
    match drop_off.kind:
        case "folder":
            return FolderCarrier(drop_off)
        case "library":
            return LibraryCarrier(drop_off)
        case "sync":
            return SyncedCarrier(drop_off)
        case "mail":
            return MailCarrier(drop_off, password, should_stop)
        case "desk":
            return IntakeCarrier(drop_off, password, should_stop)
