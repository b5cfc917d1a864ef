"""Regular looks: a failed one is followed by the next, a slow one by a longer rest, and none comes after the end."""

import time

from ripe_press.core.errors import Conflict
from ripe_press.studio.jobs.watch import Watch
from support.server import wait_for


class Looks(Watch):
    def __init__(self, share: float = 0.0, takes_s: float = 0.0) -> None:
        super().__init__("looks", 0.01, share)
        self.at: list[float] = []
        self.takes_s = takes_s

    def look(self) -> None:
        self.at.append(time.monotonic())
        time.sleep(self.takes_s)
        if len(self.at) == 1:
            raise Conflict("store.busy", "Busy.")


def test_a_failed_look_is_followed_by_the_next_and_none_comes_after_the_end() -> None:
    looks = Looks()
    looks.start()
    wait_for(lambda: len(looks.at) > 2, 5)
    looks.close(1.0)
    count = len(looks.at)
    time.sleep(0.1)
    assert len(looks.at) == count


def test_it_rests_by_how_long_a_look_takes() -> None:
    looks = Looks(share=5.0, takes_s=0.05)
    looks.start()
    wait_for(lambda: len(looks.at) > 1, 5)
    looks.close()
    assert looks.at[1] - looks.at[0] >= 0.05 + 5 * 0.05


def test_closing_one_that_never_began_is_quiet() -> None:
    Looks().close(1.0)
