"""Burns of the application: one disc at a time, in the simulated writer."""

from pathlib import Path
from typing import Any

from ripe_press.core.errors import NotFound
from ripe_press.core.words import quoted
from ripe_press.studio.discs.burning import BurnRequest, Writer, burn
from ripe_press.studio.jobs import Events, Jobs, JobState, Work

HURRY = 40.0
"""Speed of the simulated writer relative to a drive: 80 minutes at 16 times take eight seconds."""


class Burns(Jobs[dict[str, Any]]):
    """Burns discs, one after the other; the report of the last burn of each pressing is known until the end."""

    def __init__(self, folder: Path, events: Events, hurry: float = HURRY) -> None:
        super().__init__("burns", events, alone=True, busy="The disc writer is busy. Wait until it is done.")
        self._folder, self._hurry = folder, hurry

    def burn(
        self, pressing: int, cue: Path, kind: str, speed: int, *, simulate: bool, finalize: bool
    ) -> JobState[dict[str, Any]]:
        """Begins to burn a disc. Raises: Conflict ``job.running``; NotFound ``disc.gone``."""
        if not cue.is_file():
            message = f"{quoted(cue.name)} moved or deleted. Press the disc again."
            raise NotFound("disc.gone", message, path=str(cue))
        wish = BurnRequest(self._blank(pressing), kind, speed, simulate, finalize)

        def run(work: Work[dict[str, Any]]) -> dict[str, Any]:
            with Writer.own(self._hurry) as writer:
                return burn(
                    cue, wish, writer, lambda doing, done, total: work.tell(done, total, doing), work.should_stop
                )

        return self.begin(pressing, run)

    def _blank(self, pressing: int) -> Path:
        """A new folder for a blank disc."""
        number = 1
        while (place := self._folder / f"disc {pressing}-{number}").exists():
            number += 1
        return place
