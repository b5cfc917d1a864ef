"""What a mix is called without the words that tell one version of it from the next."""

import re
from functools import lru_cache

_WORDS = "version|mix|take|rev|revision|print|bounce|render|final|master|new|old|copy|v"
_ENDS = re.compile(
    rf"""
    (?:
        [\s_.-]+ (?:{_WORDS}) [\s_.-]* \d*        # "Millrace mix 3", "Millrace_final"
      | [\s_.-]+ \d{{4}}-?\d{{2}}-?\d{{2}}        # "Millrace 2026-11-27"
      | [\s_.-]+ \d{{1,3}}                        # "Millrace 02", "Millrace_12"
      | \s* \( \d{{1,3}} \)                       # "Millrace (1)", as browsers name a second download
    ) $
    """,
    re.IGNORECASE | re.VERBOSE,
)


@lru_cache(maxsize=10_000)
def root_of(title: str) -> str:
    """The part of a title that versions of one mix share, for comparing: ``Millrace_mix 3 final`` is ``millrace``.

    A title that is nothing but such words stays whole.
    """
    found = title.strip()
    while shorter := _ENDS.sub("", found).strip():
        if shorter == found:
            break
        found = shorter
    return " ".join(re.split(r"[\s_]+", found)).casefold()
