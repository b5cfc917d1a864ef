"""Words of verdicts, states and units, one table each, for page, command line and delivery sheet.

The page reads them from ``web/src/api/generated/words.json``, which `make types` writes and `make check` compares.
Sentences of findings are with their rules.
"""

from collections.abc import Mapping
from typing import Literal

JobStateName = Literal["queued", "running", "done", "failed", "cancelled", "interrupted"]
"""*interrupted*: ended early; what it made so far is kept where it is of use."""
VERDICTS = {"ready": "Ready", "look": "Review", "stop": "Blocked"}
PRESSINGS = {
    "queued": "queued", "running": "running", "interrupted": "interrupted", "done": "done", "failed": "failed",
    "cancelled": "cancelled",
}  # fmt: skip
FILES = {
    "queued": "queued", "settling": "measuring level", "making": "rendering", "reading-back": "verifying",
    "naming": "saving", "named": "done", "left-out": "blocked", "failed": "failed", "cancelled": "cancelled",
}  # fmt: skip
TRANSFERS = {
    "asks": "needs sign-off", "held": "paused", "waiting": "waiting", "sending": "sending", "taken": "delivered",
    "accepted": "accepted", "refused": "rejected", "recalled": "cancelled", "failed": "failed",
}  # fmt: skip
FOUND = {"as-pressed": "unchanged", "moved": "moved", "changed": "changed", "gone": "missing"}
PREDICTIONS = {
    "same": "no audible difference", "none": "transparent", "perhaps": "possibly audible",
    "noticed": "probably audible",
}  # fmt: skip
LEVELS = {"leave": "unchanged", "peak": "sample peak", "true-peak": "true peak", "loudness": "loudness"}
LEVEL_UNITS = {"leave": "dB", "peak": "dBFS", "true-peak": "dBTP", "loudness": "LUFS"}
MODES = {"constant": "constant", "average": "average", "variable": "variable"}

TABLES: Mapping[str, Mapping[str, str]] = {
    "verdict": VERDICTS, "pressing": PRESSINGS, "file": FILES, "transfer": TRANSFERS, "found": FOUND,
    "prediction": PREDICTIONS, "level": LEVELS, "level_unit": LEVEL_UNITS, "mode": MODES,
}  # fmt: skip
"""Every table by its name on the page."""


def quoted(name: object) -> str:
    """A name or typed text in quotation marks, for messages; control characters and stray bytes as escapes."""
    text = "".join(one if one.isprintable() else one.encode("unicode_escape").decode() for one in str(name))
    return f"“{text}”"
