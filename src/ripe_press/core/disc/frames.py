"""Frames of an audio disc: 75 a second, 588 stereo samples each.

Source: IEC 60908 and ECMA-130 (from memory of the texts; arithmetic checked in tests/published).
"""

import re

from ripe_press.core.errors import BadInput
from ripe_press.core.timeline import CD_FRAME_SAMPLES, CD_FRAMES_PER_SECOND
from ripe_press.core.words import quoted

FRAME_SAMPLES = CD_FRAME_SAMPLES
FRAME_BYTES = 2352
MOST_TRACKS = 99
LEAST_TRACK_FRAMES = 4 * CD_FRAMES_PER_SECOND
PAUSE_FRAMES = 2 * CD_FRAMES_PER_SECOND
"""Two seconds: what lies before track 1 on every disc, outside of any image, and the usual gap."""
CAPACITY_FRAMES = {74: 333_000, 80: 359_849}
"""Where the lead-out may begin at the latest on discs of so many minutes; of 80 minutes it is 79:59:74 absolute."""

_TIME = re.compile(r"^(\d{1,3}):(\d{2}):(\d{2})$")


def print_frames(frames: int) -> str:
    """As minutes, seconds and frames, from the start of the image: 02:31:45."""
    seconds, rest = divmod(frames, CD_FRAMES_PER_SECOND)
    return f"{seconds // 60:02d}:{seconds % 60:02d}:{rest:02d}"


def print_signed_frames(frames: int) -> str:
    """The same where it may be too much: −00:12:03."""
    return print_frames(frames) if frames >= 0 else f"−{print_frames(-frames)}"


def parse_frames(text: str) -> int:
    """The frames of a time as a cue sheet has it. Raises: BadInput ``disc.time``."""
    found = _TIME.match(text)
    if found:
        minutes, seconds, frames = (int(one) for one in found.groups())
        if seconds < 60 and frames < CD_FRAMES_PER_SECOND:
            return (minutes * 60 + seconds) * CD_FRAMES_PER_SECOND + frames
    message = f"{quoted(text)} is not a disc time. Use minutes:seconds:frames, for example 02:31:45."
    raise BadInput("disc.time", message, text=text)
