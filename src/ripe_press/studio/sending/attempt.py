"""One try of one transfer, and its resulting state; the outbox and the command line share it."""

import time
from dataclasses import asdict
from typing import Any

from ripe_press.core.errors import Cancelled, Interrupted, RipePressError
from ripe_press.core.sending.parcel import Parcel, ParcelState, Reason
from ripe_press.store.parcels import Standing, StoredParcel
from ripe_press.studio.log import logger
from ripe_press.studio.sending.carriers import Carrier
from ripe_press.studio.sending.carriers.carrier import Answer, Asking, Hand

_LOG = logger("send")
_NOT_SENT = ("send.gone", "send.changed", "send.login")
"""What no recipient refused, and what no other try would mend."""
LONGEST_ASK_S = 60.0


def carried(stored: StoredParcel, carrier: Carrier, kept: dict[str, Any], hand: Hand, pause_s: float) -> Standing:
    """Transfer a file and return its state, whatever happens. Raises: Cancelled alone.

    What fails for now waits ``pause_s`` for its next try.
    """
    try:
        return _standing(carrier.carry(Parcel(**stored.parcel), kept, hand), None)
    except Cancelled:
        raise
    except Interrupted as error:
        return Standing("waiting", error.message, kept=kept, next_at=time.time() + pause_s)
    except RipePressError as error:
        return failed(error, kept, pause_s)
    except Exception as error:
        return fault(error, stored.id, kept)


def asked(stored: StoredParcel, carrier: Carrier, pause_s: float) -> Standing:
    """Ask for the state of a delivered file; one that its recipient lost waits to be sent again."""
    kept = dict(stored.kept)
    times = int(kept.get("asked", 0)) + 1
    kept["asked"] = times
    if not isinstance(carrier, Asking):
        return Standing("taken", stored.sentence, receipt=stored.receipt, kept=kept)
    try:
        return _standing(carrier.ask(Parcel(**stored.parcel), kept), times)
    except Interrupted as error:
        state: ParcelState = "waiting" if error.code == "send.lost" else "taken"
        return Standing(state, error.message, receipt=stored.receipt, kept=kept, next_at=time.time() + pause_s)
    except RipePressError as error:
        return failed(error, kept, pause_s)
    except Exception as error:
        return fault(error, stored.id, kept)


def failed(error: RipePressError, kept: dict[str, Any], pause_s: float) -> Standing:
    """The state of a transfer whose file is unusable or whose login is rejected."""
    if error.code.startswith("secrets."):
        return Standing("waiting", error.message, kept=kept, next_at=time.time() + pause_s)
    if error.code in _NOT_SENT:
        return Standing("failed", error.message, kept=kept)
    return Standing("refused", error.message, (asdict(Reason("other", error.message)),), kept=kept)


def fault(error: Exception, number: int, kept: dict[str, Any]) -> Standing:
    """The state of a transfer after an unexpected error."""
    _LOG.exception("sending failed with an internal error", parcel=number)
    reason = f"{type(error).__name__}: {error}"
    return Standing("failed", f"Internal error ({reason}). Send it again.", kept=kept)


def _standing(answer: Answer, times: int | None) -> Standing:
    """The state after an answer; questions are frequent at first, then less and less."""
    again = None
    if answer.look_again_s is not None:
        again = time.time() + min(LONGEST_ASK_S, answer.look_again_s * 1.3 ** min(times or 0, 30))
    reasons = [asdict(one) for one in answer.reasons]
    return Standing(answer.state, answer.sentence, reasons, answer.receipt, answer.kept, again)
