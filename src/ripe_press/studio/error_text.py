"""Any error as one sentence for the user and one line in the log."""

from ripe_press.core.errors import RipePressError
from ripe_press.studio.log import logger

_LOG = logger("faults")


def sentence_of(error: BaseException) -> str:
    """Return the error's own sentence; log an unexpected error with its place."""
    if isinstance(error, RipePressError | OSError):
        return str(error)
    _LOG.error("internal error", error)
    return f"Internal error ({type(error).__name__}: {error}). Details are in the log."
