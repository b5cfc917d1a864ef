"""Blind tests over the sources of a listening desk; no answer names X before the trial is over."""

import secrets
import threading
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ripe_press.core.errors import BadInput, Conflict, NotFound
from ripe_press.core.listening.blind import FEWEST_TRIALS, MOST_TRIALS, guessed_p, hidden_in, meaning
from ripe_press.core.listening.voice import SIDES
from ripe_press.core.units import linear_from_db
from ripe_press.core.words import quoted
from ripe_press.store.blind_tests import BlindState, BlindTestTable, StoredBlindTest
from ripe_press.studio.jobs import Events
from ripe_press.studio.listening.desk import Desk, Desks
from ripe_press.studio.listening.sources import MixSource, PressedSource

_NOISE = 2.0**-24
"""At −144 dBFS, different for every source: two blocks of equal audio are never equal bytes."""
MOST_ALTERNATIVES = 3


@dataclass(frozen=True, slots=True)
class _Open:
    desk_id: str
    slots: tuple[int, ...]
    gains: tuple[float, ...]
    start_frame: int
    frames: int


@dataclass(frozen=True, slots=True)
class BlindTest:
    """A blind test as shown to its listener: X and the result only when it is over."""

    id: int
    pressing_id: int | None
    state: BlindState
    began_at: str
    trials: int
    answered: int
    titles: tuple[str, ...]
    rate_hz: int
    start_frame: int
    frames: int
    seed: str = ""
    answers: tuple[int, ...] = ()
    hidden: tuple[int, ...] = ()
    right: int | None = None
    p: float | None = None
    sentence: str = ""


class BlindTests:
    """Starts tests, mixes the audio of trials, and records answers."""

    def __init__(self, table: BlindTestTable, desks: Desks, events: Events) -> None:
        self._table, self._desks, self._events = table, desks, events
        self._open: dict[int, _Open] = {}
        self._lock = threading.Lock()

    def begin(self, desk_id: str, slots: Sequence[int], trials: int, start_frame: int, end_frame: int) -> BlindTest:
        """Start a test of two or three sources, level-matched, over a passage of their timeline.

        Raises: NotFound ``desk.gone``; BadInput ``blind.voices``, ``blind.trials``, ``blind.passage``.
        """
        desk = self._desks.desk(desk_id)
        self._check(desk, slots, trials, start_frame, end_frame)
        voices = [desk.cast.voices[slot] for slot in slots]
        quietest = min(one.louder_db for one in voices)
        gains = tuple(linear_from_db(quietest - one.louder_db) for one in voices)
        pressing = next((one.asked.pressing for one in desk.cast.voices if isinstance(one.asked, PressedSource)), None)
        setting = {
            "titles": [one.title for one in voices],
            "gains_db": [quietest - one.louder_db for one in voices],
            "start_frame": start_frame,
            "end_frame": end_frame,
            "rate_hz": desk.cast.rate_hz,
        }
        first = desk.cast.voices[0].asked
        mix = first.mix_id if isinstance(first, MixSource) else None
        test_id = self._table.add(pressing, mix, trials, secrets.token_hex(16), setting)
        with self._lock:
            self._open[test_id] = _Open(desk_id, tuple(slots), gains, start_frame, end_frame - start_frame)
        return self.test(test_id)

    def test(self, test_id: int) -> BlindTest:
        """Return a test as shown to its listener. Raises: NotFound ``blind.unknown``."""
        return blind_test_view(self._stored(test_id))

    def of_pressing(self, pressing_id: int) -> list[BlindTest]:
        """The tests of a pressing that are over, newest first."""
        return [blind_test_view(one) for one in self._table.of_pressing(pressing_id) if one.state != "open"]

    def of_mix(self, mix_id: int) -> list[BlindTest]:
        """Return the finished tests of a mix, newest first."""
        return [blind_test_view(one) for one in self._table.of_mix(mix_id) if one.state != "open"]

    def blocks(self, test_id: int, trial: int, start_frame: int, frames: int) -> bytes:
        """A stretch of the passage: the alternatives in their order, then X; always as many bytes.

        Raises: NotFound; Conflict ``blind.trial`` for a trial whose turn it is not; BadInput ``desk.stretch``.
        """
        stored = self._stored(test_id)
        held = self._open.get(test_id)
        if held is None or stored.state != "open" or len(stored.answers) != trial:
            message = "This trial is over or has not started."
            raise Conflict("blind.trial", message, test=test_id, trial=trial)
        if start_frame + frames > held.frames:
            message = f"The passage of this test has {held.frames:,} samples."
            raise BadInput("desk.stretch", message, start_frame=start_frame, frames=frames)
        desk = self._desks.desk(held.desk_id)
        found = self._desks.stretches(desk, held.slots, held.start_frame + start_frame, frames)
        sounds = [
            np.frombuffer(data, dtype="<f4").astype(np.float64) * gain
            for data, gain in zip(found, held.gains, strict=True)
        ]
        sounds.append(sounds[hidden_in(stored.seed, trial, len(sounds))])
        noise = np.random.default_rng(secrets.randbits(128))
        return b"".join(
            (one + noise.uniform(-_NOISE, _NOISE, frames * SIDES)).astype("<f4").tobytes() for one in sounds
        )

    def answer(self, test_id: int, trial: int, answer: int) -> BlindTest:
        """Writes down what X was taken for; that can not be changed.

        Raises: NotFound; BadInput ``blind.answer``; Conflict ``blind.trial``.
        """
        stored = self._stored(test_id)
        if not 0 <= answer < len(stored.setting["titles"]):
            message = f"Answer {answer + 1} is out of range. Use 1 to {len(stored.setting['titles'])}."
            raise BadInput("blind.answer", message, answer=answer)
        if not self._table.answer(test_id, trial, answer):
            message = f"Trial {trial + 1} is already answered or the test is over. Answers are final."
            raise Conflict("blind.trial", message, test=test_id, trial=trial)
        return self._ended(self.test(test_id))

    def leave_off(self, test_id: int) -> BlindTest:
        """Ends a test without a result; one that is over stays as it is. Raises: NotFound."""
        self._stored(test_id)
        self._table.leave_off(test_id)
        return self._ended(self.test(test_id))

    def start(self) -> None:
        """End tests left open by an earlier run: their listening desk is closed."""
        self._table.leave_off()

    def _ended(self, test: BlindTest) -> BlindTest:
        if test.state != "open":
            with self._lock:
                self._open.pop(test.id, None)
            self._events.publish("pressings")
        return test

    def _stored(self, test_id: int) -> StoredBlindTest:
        stored = self._table.get(test_id)
        if stored is None:
            message = f"Blind test {test_id} not found."
            raise NotFound("blind.unknown", message, test=test_id)
        return stored

    def _check(self, desk: Desk, slots: Sequence[int], trials: int, start_frame: int, end_frame: int) -> None:
        there = range(len(desk.cast.voices))
        if not 2 <= len(slots) <= MOST_ALTERNATIVES or len(set(slots)) != len(slots) or not set(slots) <= set(there):
            message = f"A blind test needs 2 or 3 different sources, not {len(slots)}."
            raise BadInput("blind.voices", message, slots=list(slots))
        silent = next((slot for slot in slots if desk.health(slot).state != "ready"), None)
        if silent is not None:
            message = f"{quoted(desk.cast.voices[silent].title)} is still being decoded. Wait."
            raise Conflict("blind.silent", message, slot=silent)
        if not FEWEST_TRIALS <= trials <= MOST_TRIALS:
            message = f"Use {FEWEST_TRIALS} to {MOST_TRIALS} trials."
            raise BadInput("blind.trials", message, trials=trials)
        voices = [desk.cast.voices[slot].voice for slot in slots]
        first = max(one.offset_frames for one in voices)
        last = min(one.offset_frames + one.frames for one in voices)
        if not first <= start_frame < end_frame <= last or end_frame - start_frame < desk.cast.rate_hz:
            message = "The passage must be 1 s or longer and inside all sources."
            raise BadInput("blind.passage", message, start_frame=start_frame, end_frame=end_frame)


def blind_test_view(stored: StoredBlindTest) -> BlindTest:
    """Return a test as shown to its listener: an open one without anything that identifies X."""
    setting, answers = stored.setting, stored.answers
    begun = BlindTest(
        stored.id, stored.pressing_id, stored.state, stored.began_at, stored.trials, len(answers),
        tuple(setting["titles"]), setting["rate_hz"], setting["start_frame"],
        setting["end_frame"] - setting["start_frame"],
    )  # fmt: skip
    if stored.state == "open":
        return begun
    alternatives = len(setting["titles"])
    hidden = tuple(hidden_in(stored.seed, trial, alternatives) for trial in range(len(answers)))
    right = sum(one == other for one, other in zip(answers, hidden, strict=True))
    done = stored.state == "done"
    left_off = f"Ended after {len(answers)} of {stored.trials} trials: no result."
    return BlindTest(
        begun.id, begun.pressing_id, begun.state, begun.began_at, begun.trials, begun.answered, begun.titles,
        begun.rate_hz, begun.start_frame, begun.frames, stored.seed, answers, hidden, right,
        guessed_p(right, stored.trials, alternatives) if done else None,
        meaning(right, stored.trials, alternatives) if done else left_off,
    )  # fmt: skip
