"""A studio in a process of its own, to be killed: it presses its ticket, or resumes it.

python -m support.programs.killed DATA MIX [--only-shelve]
"""

import sys
import time
from pathlib import Path

from ripe_press.core.briefs.library import BLANK
from ripe_press.core.requests.bench import Bench, NamedRange, TicketLine
from ripe_press.core.requests.delivery import Changes
from ripe_press.core.requests.edges import Edges
from ripe_press.core.requests.making import LevelRequest
from ripe_press.studio.data_folder import DataFolder
from ripe_press.studio.shelf.requests import document_for
from ripe_press.studio.studio import Studio

CHANGES = (
    Changes(container="wav"),
    Changes(container="flac"),
    Changes(container="opus", kbps=96, level=LevelRequest("loudness", -20.0, back_off=True)),
    Changes(container="mp3", kbps=192),
    Changes(container="wav", level=LevelRequest("peak", -6.0), label_pattern="{title} quiet"),
)


def say(word: str) -> None:
    sys.stdout.write(f"{word}\n")
    sys.stdout.flush()


def main() -> None:
    """Presses, says so, and ends when there is nothing left to do."""
    data, mix_path = Path(sys.argv[1]), sys.argv[2]
    with Studio(DataFolder(data)) as studio:
        # Without warming the other rooms up: they have no part in this.
        studio.press_room.start()
        room = studio.press_room
        if not studio.shelf.rows():
            arrival = studio.shelf.fetch(mix_path)
            while arrival.state.state == "running":
                time.sleep(0.02)
            if "--only-shelve" in sys.argv:
                return
        if room.latest(1) is None:
            mix = studio.shelf.mixes()[0]
            lines = tuple(TicketLine(f"d{at}", BLANK.id, "r1", changes=one) for at, one in enumerate(CHANGES))
            bench = Bench((NamedRange("r1", 0, mix.frames, edges=Edges()),), ticket=lines, tags=(("title", "Weir"),))
            say("pressing")
            room.press(mix, document_for(studio.mix_views, mix, bench, {BLANK.id: BLANK}))
        else:
            say("pressing")
        while (state := room.pressing(1).state) in ("queued", "running"):
            time.sleep(0.02)
        say(state)


if __name__ == "__main__":
    main()
