"""Regular looks at something, on a thread of their own."""

import threading
import time

from ripe_press.core.errors import RipePressError
from ripe_press.studio.log import logger

_LOG = logger("watches")


class Watch:
    """Calls `look` every few seconds until it is closed; a look that fails is noted, and the next one tries again.

    With a ``share`` it rests so many times as long as a look takes, so that a slow disk is not kept busy.
    """

    def __init__(self, name: str, every_s: float, share: float = 0.0) -> None:
        self.every_s, self._share = every_s, share
        self.closing = threading.Event()
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)

    def start(self) -> None:
        """Begins to look."""
        self._thread.start()

    def close(self, wait_s: float = 0.0) -> None:
        """Ends; the rest is looked at after the next start."""
        self.closing.set()
        if wait_s and self._thread.is_alive():
            self._thread.join(wait_s)

    def look(self) -> None:
        """One look."""
        raise NotImplementedError

    def _run(self) -> None:
        rest = self.every_s
        while not self.closing.wait(rest):
            began = time.monotonic()
            try:
                self.look()
            except (RipePressError, OSError) as error:
                _LOG.warning("a look failed", watch=self._thread.name, why=str(error))
            rest = max(self.every_s, self._share * (time.monotonic() - began))
