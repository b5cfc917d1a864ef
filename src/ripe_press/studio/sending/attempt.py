"""One try of one transfer, and its resulting state; the outbox and the command line share it."""

import time
from dataclasses import asdict
from typing import Any

from ripe_press.core.errors import Cancelled, Interrupted, RipePressError
from ripe_press.core.sending.parcel import Parcel, ParcelState, Reason
from ripe_press.store.parcels import StoredParcel, TransferStep
from ripe_press.studio.log import logger
from ripe_press.studio.sending.carriers import Carrier
from ripe_press.studio.sending.carriers.carrier import AnsweringCarrier, RunningTransfer, TransferResult

_LOG = logger("send")
_NOT_SENT = ("send.gone", "send.changed", "send.login")
"""What no recipient refused, and what no other try would mend."""
LONGEST_ASK_S = 60.0


def transfer_file(
    stored: StoredParcel, carrier: Carrier, kept: dict[str, Any], hand: RunningTransfer, pause_s: float
) -> TransferStep:
    """Transfer a file and return its state, whatever happens. Raises: Cancelled alone.

    What fails for now waits ``pause_s`` for its next try.
    """
    try:
        return _standing(carrier.carry(Parcel(**stored.parcel), kept, hand), None)
    except Cancelled:
        raise
    except Interrupted as error:
        return TransferStep("waiting", error.message, kept=kept, next_at=time.time() + pause_s)
    except RipePressError as error:
        return failed_step(error, kept, pause_s)
    except Exception as error:
        return fault(error, stored.id, kept)


def asked_state(stored: StoredParcel, carrier: Carrier, pause_s: float) -> TransferStep:
    """Ask for the state of a delivered file; one that its recipient lost waits to be sent again."""
    kept = dict(stored.kept)
    times = int(kept.get("asked", 0)) + 1
    kept["asked"] = times
    if not isinstance(carrier, AnsweringCarrier):
        return TransferStep("taken", stored.sentence, receipt=stored.receipt, kept=kept)
    try:
        return _standing(carrier.ask(Parcel(**stored.parcel), kept), times)
    except Interrupted as error:
        state: ParcelState = "waiting" if error.code == "send.lost" else "taken"
        return TransferStep(state, error.message, receipt=stored.receipt, kept=kept, next_at=time.time() + pause_s)
    except RipePressError as error:
        return failed_step(error, kept, pause_s)
    except Exception as error:
        return fault(error, stored.id, kept)


def failed_step(error: RipePressError, kept: dict[str, Any], pause_s: float) -> TransferStep:
    """The state of a transfer whose file is unusable or whose login is rejected."""
    if error.code.startswith("secrets."):
        return TransferStep("waiting", error.message, kept=kept, next_at=time.time() + pause_s)
    if error.code in _NOT_SENT:
        return TransferStep("failed", error.message, kept=kept)
    return TransferStep("refused", error.message, (asdict(Reason("other", error.message)),), kept=kept)


def fault(error: Exception, number: int, kept: dict[str, Any]) -> TransferStep:
    """The state of a transfer after an unexpected error."""
    _LOG.exception("sending failed with an internal error", parcel=number)
    reason = f"{type(error).__name__}: {error}"
    return TransferStep("failed", f"Internal error ({reason}). Send it again.", kept=kept)


def _standing(answer: TransferResult, times: int | None) -> TransferStep:
    """The state after an answer; questions are frequent at first, then less and less."""
    again = None
    if answer.look_again_s is not None:
        again = time.time() + min(LONGEST_ASK_S, answer.look_again_s * 1.3 ** min(times or 0, 30))
    reasons = [asdict(one) for one in answer.reasons]
    return TransferStep(answer.state, answer.sentence, reasons, answer.receipt, answer.kept, again)
