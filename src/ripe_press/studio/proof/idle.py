"""Comparisons with the mix that start while the machine is idle, one file after the other."""

import os
from collections.abc import Callable

from ripe_press.store.held_files import HeldFiles
from ripe_press.store.pressings import StoredFile, StoredPressing
from ripe_press.store.settings import Settings
from ripe_press.studio.jobs import Watch
from ripe_press.studio.proof.mix_comparison import MixComparisons

_ON = "comparisons when idle"
_LOOK_S, _IDLE_LOOKS = 2.0, 10
_NEWEST, _MOST = 50, 200
"""Pressings whose files are compared, and files of one look."""
_FREE = 0.7
"""Share of the cores in use, at most, for a machine to count as idle."""


class IdleComparisons(Watch):
    """Compares the files of the newest pressings while nothing else runs; results are kept over a restart."""

    def __init__(
        self,
        kept: HeldFiles,
        settings: Settings,
        comparisons: MixComparisons,
        stored: Callable[[int, int], tuple[StoredPressing, StoredFile]],
        busy: Callable[[], bool],
    ) -> None:
        super().__init__("idle comparisons", _LOOK_S)
        self._kept, self._settings, self._comparisons, self._stored, self._busy = (
            kept, settings, comparisons, stored, busy,
        )  # fmt: skip
        self._tried: set[tuple[int, int]] = set()
        self._last: tuple[StoredPressing, StoredFile] | None = None
        self._quiet = 0

    @property
    def on(self) -> bool:
        """Whether files are compared while the machine is idle."""
        return self._settings.get(_ON, "yes") == "yes"

    def turn(self, on: bool) -> None:
        """Switches it."""
        self._settings.set(_ON, "yes" if on else "no")

    def step(self) -> bool:
        """Starts the comparison of the next file; whether there was one. One that fails is not repeated."""
        if self._last:
            state = self._comparisons.state(*self._last)
            if state and state.state in ("failed", "cancelled"):
                self._comparisons.drop(*self._last)
            self._last = None
        for number, file in self._kept.pending(_NEWEST, _MOST):
            if (number, file) in self._tried:
                continue
            self._tried.add((number, file))
            self._last = self._stored(number, file)
            self._comparisons.hold(*self._last)
            return True
        return False

    def look(self) -> None:
        """Counts the looks at an idle machine, and takes a step once there were enough."""
        idle = self.on and not self._busy() and os.getloadavg()[0] <= _FREE * (os.cpu_count() or 1)
        self._quiet = self._quiet + 1 if idle else 0
        if self._quiet >= _IDLE_LOOKS:
            self.step()
