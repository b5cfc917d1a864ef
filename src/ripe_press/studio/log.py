"""The log: events with their time, readable on the terminal, and as JSON in a file of the data folder.

An event is a few fixed words; all data is in named values. Never in it: tokens, what people typed into requests, and
the local variables of a traceback. A full disk stops the log and nothing else. Lines are rendered and written by a
thread of their own: no request waits for them.
"""

import atexit
import logging
import os
import queue
import sys
import threading
import time
import traceback
from collections import deque
from io import TextIOWrapper
from logging.handlers import QueueHandler, QueueListener, RotatingFileHandler
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO

if TYPE_CHECKING:
    from structlog.typing import EventDict, ExcInfo, Processor

MOST_BYTES = 2_000_000
OLD_FILES = 4
NAME = "ripe-press.log"
TRACEBACKS, TRACEBACK_SECONDS = 20, 60.0
"""Most tracebacks in this many seconds; further errors are logged in one line each."""
_MOST_WAITING = 10_000
"""Lines that wait to be written; more are dropped, for a log must never fill the memory."""
_MOST_FRAMES = 30


class Log:
    """The log under the name of a module; before it is set up, as in commands, nothing is logged."""

    def __init__(self, name: str) -> None:
        self._log = logging.getLogger(f"ripe_press.{name}")

    def info(self, event: str, **values: object) -> None:
        """Something happened as it should."""
        self._log.info(event, extra={"values": values})

    def warning(self, event: str, **values: object) -> None:
        """Something is worth a look."""
        self._log.warning(event, extra={"values": values})

    def error(self, event: str, error: BaseException | None = None, **values: object) -> None:
        """Something failed; by which error, where one is at hand."""
        self._log.error(event, extra={"values": values}, exc_info=error)

    def exception(self, event: str, **values: object) -> None:
        """Log an unexpected error with its place."""
        self._log.exception(event, extra={"values": values})


logging.getLogger("ripe_press").addHandler(logging.NullHandler())


def logger(name: str) -> Log:
    """The log of a room."""
    return Log(name)


class _PrivateFile(RotatingFileHandler):
    """A log that only its owner can read."""

    def _open(self) -> TextIOWrapper:
        descriptor = os.open(self.baseFilename, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600)
        os.fchmod(descriptor, 0o600)
        return os.fdopen(descriptor, "a", encoding="utf-8")


class _Queued(QueueHandler):
    """Hands records on as they are; with too many faults at once their tracebacks are left out."""

    def __init__(self, waiting: "queue.Queue[logging.LogRecord]") -> None:
        super().__init__(waiting)
        self._told: deque[float] = deque()
        self._counting = threading.Lock()

    def prepare(self, record: logging.LogRecord) -> logging.LogRecord:
        """The record itself: it stays in this process."""
        if record.exc_info and not self._is_due():
            error = record.exc_info[1]
            values = {**getattr(record, "values", {}), "error": type(error).__name__, "traceback": "left out: too many"}
            record.values, record.exc_info = values, None
        return record

    def _is_due(self) -> bool:
        now = time.monotonic()
        with self._counting:
            while self._told and now - self._told[0] > TRACEBACK_SECONDS:
                self._told.popleft()
            if len(self._told) >= TRACEBACKS:
                return False
            self._told.append(now)
            return True


class KeptLog:
    """The running log; `flush` and `close` write all waiting lines."""

    def __init__(self, path: Path, handlers: list[logging.Handler]) -> None:
        self.path = path
        self._waiting: queue.Queue[logging.LogRecord] = queue.Queue(_MOST_WAITING)
        self._listener = QueueListener(self._waiting, *handlers)
        self._handlers = handlers
        self._queued = _Queued(self._waiting)
        logging.getLogger().addHandler(self._queued)
        self._listener.start()
        self.closed = False
        atexit.register(self.close)

    def flush(self) -> None:
        """Waits until all lines are written."""
        self._waiting.join()

    def close(self) -> None:
        """Writes the waiting lines, and ends the log."""
        if self.closed:
            return
        self.closed = True
        atexit.unregister(self.close)
        logging.getLogger().removeHandler(self._queued)
        self._listener.stop()
        for handler in self._handlers:
            handler.close()


def keep_log(folder: Path, terminal: TextIO | None = None) -> KeptLog:
    """From here on everything is kept in ``folder``, one JSON object a line, and shown on the terminal.

    The newest 10 MB are kept. Standard error is the terminal where none is named. Raises: OSError.
    """
    # Only here: workers and commands, which keep no log, need not wait for it.
    from structlog.dev import ConsoleRenderer
    from structlog.processors import ExceptionRenderer, JSONRenderer
    from structlog.tracebacks import ExceptionDictTransformer

    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    folder.chmod(0o700)
    path = folder / NAME
    logging.raiseExceptions = False
    file = _PrivateFile(path, maxBytes=MOST_BYTES, backupCount=OLD_FILES, encoding="utf-8", delay=True)
    # Never with a frame's local variables: they hold what users typed, and rendering them takes seconds.
    faults = ExceptionRenderer(ExceptionDictTransformer(show_locals=False, max_frames=_MOST_FRAMES))
    file.setFormatter(_formatter([faults, JSONRenderer(ensure_ascii=False)]))
    shown = terminal or sys.stderr
    person = logging.StreamHandler(shown)
    person.setFormatter(
        _formatter([ConsoleRenderer(colors=shown.isatty(), pad_event_to=24, exception_formatter=_frames)])
    )
    logging.getLogger().setLevel(logging.WARNING)
    logging.getLogger("ripe_press").setLevel(logging.INFO)
    return KeptLog(path, [file, person])


def _frames(out: TextIO, error: "ExcInfo") -> None:
    """Where something failed, for a person: files and lines alone. Python's position marks below them need a new parse
    for each line, which is slow and not safe in two threads at once (CPython issue 106905).
    """
    for frame in traceback.extract_tb(error[2], limit=_MOST_FRAMES):
        out.write(f"  {frame.filename}:{frame.lineno} in {frame.name}\n    {frame.line}\n")
    out.write("".join(traceback.format_exception_only(error[0], error[1])).rstrip())


def _formatter(last: "list[Processor]") -> logging.Formatter:
    from structlog.processors import TimeStamper
    from structlog.stdlib import ProcessorFormatter, add_log_level, add_logger_name

    before: list[Processor] = [add_log_level, add_logger_name, TimeStamper(fmt="iso", utc=True), _values]
    after = [ProcessorFormatter.remove_processors_meta, *last]
    return ProcessorFormatter(foreign_pre_chain=before, processors=after)


def _values(_log: Any, _method: str, event: "EventDict") -> "EventDict":
    """The named values of an event, from a record of the standard library."""
    return {**getattr(event.get("_record"), "values", {}), **event}
