"""The log: what happened and when, for a person on the terminal and for machines in a file of the data folder.

An event is a few fixed words; everything else stands in named values. Never in it: tokens, and what people typed into
requests. A disk that is full stops the log and nothing else.
"""

import logging
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path
from typing import TextIO

import structlog

MOST_BYTES = 2_000_000
OLD_FILES = 4
NAME = "ripe-press.log"

_STAMPED: list[structlog.typing.Processor] = [
    structlog.stdlib.add_log_level,
    structlog.stdlib.add_logger_name,
    structlog.processors.TimeStamper(fmt="iso", utc=True),
]

structlog.configure(
    processors=[*_STAMPED, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
    logger_factory=structlog.stdlib.LoggerFactory(),
    wrapper_class=structlog.stdlib.BoundLogger,
    cache_logger_on_first_use=True,
)


def logger(name: str) -> structlog.stdlib.BoundLogger:
    """A log under the name of its room; as long as nobody keeps the log, only warnings are seen, on standard error."""
    found: structlog.stdlib.BoundLogger = structlog.stdlib.get_logger(f"ripe_press.{name}")
    return found


def keep_log(folder: Path, terminal: TextIO | None = None) -> Path:
    """From here on everything is kept in ``folder``, one JSON object a line, and shown on the terminal; gives its file.

    The newest 10 MB are kept. Standard error is the terminal where none is named.
    """
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / NAME
    logging.raiseExceptions = False
    file = RotatingFileHandler(path, maxBytes=MOST_BYTES, backupCount=OLD_FILES, encoding="utf-8", delay=True)
    file.setFormatter(
        _formatter([structlog.processors.dict_tracebacks, structlog.processors.JSONRenderer(ensure_ascii=False)])
    )
    shown = terminal or sys.stderr
    person = logging.StreamHandler(shown)
    person.setFormatter(_formatter([structlog.dev.ConsoleRenderer(colors=shown.isatty(), pad_event_to=24)]))
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


def _formatter(last: list[structlog.typing.Processor]) -> structlog.stdlib.ProcessorFormatter:
    return structlog.stdlib.ProcessorFormatter(
        foreign_pre_chain=_STAMPED,
        processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, *last],
    )
