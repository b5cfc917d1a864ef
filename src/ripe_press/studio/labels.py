"""Stored label patterns."""

from ripe_press.core.errors import BadInput, NotFound
from ripe_press.core.naming import check_pattern
from ripe_press.core.words import quoted
from ripe_press.store.labels import KeptPattern, Labels

MOST_PATTERNS = 200


class LabelBook:
    """Patterns by the names they are kept under."""

    def __init__(self, labels: Labels) -> None:
        self._labels = labels

    def all(self) -> list[KeptPattern]:
        """All patterns by name."""
        return self._labels.all()

    def keep(self, kept: KeptPattern) -> list[KeptPattern]:
        """Keeps a pattern and gives all.

        Raises: BadInput ``label.unknown-field``, ``label.empty``, ``label.no-name``, ``label.too-many``.
        """
        check_pattern(kept.pattern)
        if not kept.name:
            raise BadInput("label.no-name", "Enter a name for the label pattern.")
        there = self.all()
        if len(there) >= MOST_PATTERNS and kept.name not in {one.name for one in there}:
            message = f"{MOST_PATTERNS} label patterns is the maximum. Delete one first."
            raise BadInput("label.too-many", message)
        self._labels.keep(kept)
        return self.all()

    def remove(self, name: str) -> list[KeptPattern]:
        """Forgets a pattern and gives the rest. Raises: NotFound ``label.unknown``."""
        if name not in {one.name for one in self.all()}:
            message = f"Label pattern {quoted(name)} not found."
            raise NotFound("label.unknown", message, name=name)
        self._labels.remove(name)
        return self.all()
