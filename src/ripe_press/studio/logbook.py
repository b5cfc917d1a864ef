"""The log: what happened and when, for a person on the terminal and for machines in a file of the data folder.

An event is a few fixed words; everything else stands in named values. Never in it: tokens, and what people typed into
requests. A disk that is full stops the log and nothing else.
"""

import logging
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path
from typing import TYPE_CHECKING, Any, TextIO

if TYPE_CHECKING:
    from structlog.typing import EventDict, Processor

MOST_BYTES = 2_000_000
OLD_FILES = 4
NAME = "ripe-press.log"


class Log:
    """The log under the name of a room; as long as nobody keeps the log, only warnings are seen, on standard error."""

    def __init__(self, name: str) -> None:
        self._log = logging.getLogger(f"ripe_press.{name}")

    def info(self, event: str, **values: object) -> None:
        """Something happened as it should."""
        self._log.info(event, extra={"values": values})

    def warning(self, event: str, **values: object) -> None:
        """Something is worth a look."""
        self._log.warning(event, extra={"values": values})

    def error(self, event: str, **values: object) -> None:
        """Something failed."""
        self._log.error(event, extra={"values": values})

    def exception(self, event: str, **values: object) -> None:
        """Something failed that nobody foresaw; where, is told."""
        self._log.exception(event, extra={"values": values})


def logger(name: str) -> Log:
    """The log of a room."""
    return Log(name)


def keep_log(folder: Path, terminal: TextIO | None = None) -> Path:
    """From here on everything is kept in ``folder``, one JSON object a line, and shown on the terminal; gives its file.

    The newest 10 MB are kept. Standard error is the terminal where none is named.
    """
    # Only here: workers and commands, which keep no log, need not wait for it.
    from structlog.dev import ConsoleRenderer
    from structlog.processors import JSONRenderer, dict_tracebacks

    folder.mkdir(parents=True, exist_ok=True)
    path = folder / NAME
    logging.raiseExceptions = False
    file = RotatingFileHandler(path, maxBytes=MOST_BYTES, backupCount=OLD_FILES, encoding="utf-8", delay=True)
    file.setFormatter(_formatter([dict_tracebacks, JSONRenderer(ensure_ascii=False)]))
    shown = terminal or sys.stderr
    person = logging.StreamHandler(shown)
    person.setFormatter(_formatter([ConsoleRenderer(colors=shown.isatty(), pad_event_to=24)]))
    root = logging.getLogger()
    for handler in list(root.handlers):
        if isinstance(handler, RotatingFileHandler | logging.StreamHandler):
            root.removeHandler(handler)
            handler.close()
    root.addHandler(file)
    root.addHandler(person)
    root.setLevel(logging.WARNING)
    logging.getLogger("ripe_press").setLevel(logging.INFO)
    return path


def _formatter(last: "list[Processor]") -> logging.Formatter:
    from structlog.processors import TimeStamper
    from structlog.stdlib import ProcessorFormatter, add_log_level, add_logger_name

    before: list[Processor] = [add_log_level, add_logger_name, TimeStamper(fmt="iso", utc=True), _values]
    after = [ProcessorFormatter.remove_processors_meta, *last]
    return ProcessorFormatter(foreign_pre_chain=before, processors=after)


def _values(_log: Any, _method: str, event: "EventDict") -> "EventDict":
    """What was named beside an event, out of the record of the standard library."""
    return {**getattr(event.get("_record"), "values", {}), **event}
