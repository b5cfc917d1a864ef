"""The one family of errors.

    RipePressError
    ├── BadInput      what was typed or sent is wrong
    ├── Unsupported   a container, codec or machine cannot hold or do it
    ├── Unreadable    a file is damaged, empty, or is not sound
    ├── NotFound      what was named is not there
    ├── Conflict      something is in the way: a file, a running job
    └── Interrupted   the work was stopped, by a person or by a crash

Every error has a stable ``code`` and facts as data; the message says what failed, on what, and what to do.
"""


class RipePressError(Exception):
    """The root: ``code`` is stable and machine-readable, ``message`` is one or two sentences for a person."""

    def __init__(self, code: str, message: str, **facts: object) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
        self.facts = facts

    def __reduce__(self) -> tuple[object, ...]:
        # Errors cross the border of the worker process; the default pickling would lose code and facts.
        return _rebuild, (type(self), self.code, self.message, self.facts)


def _rebuild(kind: type[RipePressError], code: str, message: str, facts: dict[str, object]) -> RipePressError:
    return kind(code, message, **facts)


class BadInput(RipePressError):
    """What was typed or sent is wrong."""


class Unsupported(RipePressError):
    """A container, codec or machine cannot hold or do it."""


class Unreadable(RipePressError):
    """A file is damaged, empty, or is not sound."""


class NotFound(RipePressError):
    """What was named is not there."""


class Conflict(RipePressError):
    """Something is in the way: a file on disk, a running job."""


class Interrupted(RipePressError):
    """The work was stopped: by a person, a crash, or a disk."""


class Cancelled(Interrupted):
    """Somebody asked for the work to stop."""
