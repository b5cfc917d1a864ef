"""A brief of one's own from a delivery."""

import re
import unicodedata
from dataclasses import replace
from typing import Any

from ripe_press.core.requests.brief import Brief, Requirements
from ripe_press.core.requests.delivery import Changes, Delivery
from ripe_press.core.requests.making import settings_of
from ripe_press.core.stations import Codec


def saved_brief(title: str, wish: Delivery, base: Brief, changes: Changes, codec: Codec) -> Brief:
    """A brief with the settings of a delivery, and requirements proposed from them.

    Rate and depth that follow the mix still do. The proposed requirements are the format, a rate and a depth that were
    chosen, the channels, the bit rate and the true peak.
    """
    follows_rate = _asked(changes, base, "rate_hz") == "keep"
    follows_depth = _asked(changes, base, "encoding") == "keep" or codec.lossy
    settings = settings_of(wish)
    settings["rate_hz"] = "keep" if follows_rate else codec.rate_hz
    settings["encoding"] = "lossy" if codec.lossy else "keep" if follows_depth else codec.encoding
    level = wish.level
    peak = {"true-peak": level.target, "loudness": level.ceiling_dbtp}.get(level.kind)
    require = Requirements(
        containers=(codec.container,), encodings=() if follows_depth else (codec.encoding,),
        rates_hz=() if follows_rate else (codec.rate_hz,), channels=(codec.channels,), true_peak_max_dbtp=peak,
        sample_peak_max_dbfs=level.target if level.kind == "peak" else None,
        kbps_min=(codec.coding.kbps or None) if codec.coding else None,
    )  # fmt: skip
    return replace(
        base, id=_id_of(title), title=title, sentence="Settings of a delivery.", why="", require=require,
        prefer=replace(base.prefer, **settings), label_pattern=wish.label_pattern, sends_to=wish.sends_to,
    )  # fmt: skip


def _asked(changes: Changes, base: Brief, setting: str) -> Any:
    changed = getattr(changes, setting)
    return getattr(base.prefer, setting) if changed is None else changed


def _id_of(title: str) -> str:
    plain = unicodedata.normalize("NFKD", title).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:50] or "own"
