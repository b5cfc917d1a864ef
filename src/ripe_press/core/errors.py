"""The one family of errors.

    RipePressError
    ├── BadInput      an invalid value, typed or sent
    ├── Unsupported   a container, codec or machine cannot do it
    ├── Unreadable    a file is damaged, empty, or not audio
    ├── NotFound      a named thing does not exist
    ├── Conflict      something prevents it: a file, a running job
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
    """An invalid value, typed or sent."""


class Unsupported(RipePressError):
    """A container, codec or machine cannot hold or do it."""


class Unreadable(RipePressError):
    """A file is damaged, empty, or is not sound."""


class NotFound(RipePressError):
    """A named thing does not exist."""


class Conflict(RipePressError):
    """Something is in the way: a file on disk, a running job."""


class Interrupted(RipePressError):
    """The work was stopped: by a person, a crash, or a disk."""


class Cancelled(Interrupted):
    """A person cancelled the work."""
