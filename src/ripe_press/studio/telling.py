"""How far a pressing is, as one figure, out of what it tells of its files."""

from collections.abc import Callable, Sequence

from ripe_press.core.press import Event, OrderedFile

ENDED = ("named", "left-out", "failed")
_PROOF_MS = 5.0
_SETTLING_MS = 8.0
"""Milliseconds of one core for a second of a file to be read back, and to be heard for its level, roughly."""


class Work:
    """Work done of all, in milliseconds of one core: settling levels, making every file, and reading it back."""

    def __init__(self, files: Sequence[OrderedFile], report: Callable[[int, int], None]) -> None:
        self._report = report
        seconds = [0.0 if one.kept else one.path.codec.frames / one.path.codec.rate_hz for one in files]
        levels = [one.path.target for one in files]
        self._settling = [
            # Once to hear what is in front of a level, and once more, mostly, for what a limiter leaves of it.
            _SETTLING_MS * length * (1 + target.limits) if target else 0.0
            for target, length in zip(levels, seconds, strict=True)
        ]
        self._making = [
            length * sum(one.effort_ms for one in file.path) for file, length in zip(files, seconds, strict=True)
        ]
        self._proving = [_PROOF_MS * length for length in seconds]
        self._done = [0.0] * len(files)
        self._total = max(1, round(sum(self._settling + self._making + self._proving)))

    def __call__(self, event: Event) -> None:
        """Takes what happened into account and reports it."""
        part = min(1.0, event.done / event.total) if event.total else 0.0
        for at in event.files:
            settling, making, proving = self._settling[at], self._making[at], self._proving[at]
            if event.state == "settling":
                done = part * settling
            elif event.state == "making":
                done = settling + part * making
            else:
                done = settling + making + proving * (1.0 if event.state in ENDED else part)
            self._done[at] = max(self._done[at], done)
        self._report(min(self._total, round(sum(self._done))), self._total)
