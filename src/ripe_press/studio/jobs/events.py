"""Notifications of changes of the shelf and the record, for any number of listeners."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Literal, get_args

Topic = Literal["shelf", "pressings", "ladders", "desks", "orders", "burns", "stems", "passes", "outbox", "handoffs"]
TOPICS: tuple[Topic, ...] = get_args(Topic)


class Events:
    """Called from any thread; listeners are called in it and return at once."""

    def __init__(self) -> None:
        self._listeners: set[Callable[[Topic], None]] = set()
        self._lock = threading.Lock()
        self._counts: dict[Topic, int] = dict.fromkeys(TOPICS, 0)

    def publish(self, topic: Topic) -> None:
        """Notify all listeners of a change of a topic."""
        with self._lock:
            self._counts[topic] += 1
            listeners = list(self._listeners)
        for listener in listeners:
            listener(topic)

    def count(self, topic: Topic) -> int:
        """The number of changes of a topic: while it is equal, answers about it are too."""
        with self._lock:
            return self._counts[topic]

    @contextmanager
    def subscribed(self, listener: Callable[[Topic], None]) -> Iterator[None]:
        """Calls a listener as long as this lasts."""
        with self._lock:
            self._listeners.add(listener)
        try:
            yield
        finally:
            with self._lock:
                self._listeners.discard(listener)
