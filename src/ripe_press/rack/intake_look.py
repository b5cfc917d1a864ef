"""The intake server's check of a file: against its own brief, by the facts in the file."""

import io
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from ripe_press.core.briefs.library import brief_of
from ripe_press.core.proof.read_back import prove
from ripe_press.core.requests.brief import Brief
from ripe_press.core.rules.checks.received import hold_file
from ripe_press.core.sending.parcel import ReasonKind
from ripe_press.core.tags.embedded import read_embedded
from ripe_press.core.tags.pictures import read_cover
from ripe_press.core.tags.sheet import COVER
from ripe_press.core.words import quoted

COVER_PIXELS = 1_000
_KINDS: dict[str, ReasonKind] = {
    "container": "container", "depth": "depth", "rate": "rate", "channels": "channels", "sample_peak": "clipped",
    "needs_tag": "tag", "size": "size",
}  # fmt: skip
"""What a requirement of a brief is called as a reason."""
_RATES_HZ = (44_100, 48_000, 96_000)
DESK_BRIEF = replace(
    brief_of("distributor"), title="This distributor", tags=("title", "artist", "album", "isrc", COVER),
    require=replace(brief_of("distributor").require, rates_hz=_RATES_HZ, sample_peak_max_dbfs=-0.2),
)  # fmt: skip
"""What a distributor takes, a little narrower."""


@dataclass(frozen=True, slots=True)
class Looker:
    """Holds a file against a brief; a cover has at least so many pixels on its shorter side."""

    brief: Brief = field(default=DESK_BRIEF)
    cover_pixels: int = COVER_PIXELS

    def reasons(self, path: Path, taken: Mapping[str, Path]) -> list[dict[str, Any]]:
        """Reasons to reject a file, given the accepted ones; none to accept it."""
        proof = prove(path)
        found = []
        for one in hold_file(self.brief, proof):
            if one.holds:
                continue
            kind = "damaged" if one.stops else _KINDS.get(one.rule.removeprefix("brief_"), "other")
            asked = self._asked(kind, one.field or "")
            if one.field == COVER:
                kind, asked = "cover", [str(self.cover_pixels)]
            found.append({"kind": kind, "sentence": one.sentence(self.brief.title), "asked": asked})
        if proof.unreadable:
            return found
        return [*found, *self._cover(path), *_code(path, taken)]

    def _asked(self, kind: ReasonKind, tag: str) -> list[str]:
        require = self.brief.require
        match kind:
            case "container":
                return list(require.containers)
            case "depth":
                return list(require.encodings)
            case "rate":
                return [str(one) for one in require.rates_hz]
            case "channels":
                return [str(one) for one in require.channels]
            case "tag":
                return [tag]
            case _:
                return []

    def _cover(self, path: Path) -> list[dict[str, Any]]:
        from PIL import Image

        data = read_cover(path)
        if not data:
            return []
        with Image.open(io.BytesIO(data)) as opened:
            side = min(opened.size)
        if side >= self.cover_pixels:
            return []
        sentence = f"The cover has {side} pixels per side; minimum {self.cover_pixels:,}."
        return [{"kind": "cover", "sentence": sentence, "asked": [str(self.cover_pixels)]}]


def _code(path: Path, taken: Mapping[str, Path]) -> list[dict[str, Any]]:
    code = _tag(path, "isrc")
    for number, other in taken.items():
        if code and _tag(other, "isrc") == code and _tag(other, "title") != _tag(path, "title"):
            sentence = f"ISRC {code} is already used by {quoted(_tag(other, 'title'))} (submission {number})."
            return [{"kind": "code-used", "sentence": sentence, "asked": [code]}]
    return []


def _tag(path: Path, name: str) -> str:
    # Tags alone are asked for, so rate and length do not matter here.
    return dict(read_embedded(path, 48_000, 0).tags).get(name, "").replace("-" if name == "isrc" else "\x00", "")
