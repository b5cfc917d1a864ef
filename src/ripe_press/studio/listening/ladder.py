"""The codec comparison as plain values, for command line and page."""

from typing import Any

from ripe_press.core.ladder import Ladder, Rung
from ripe_press.core.units import print_size
from ripe_press.studio.reports import figure


def ladder_report(found: Ladder) -> dict[str, Any]:
    """A ladder as plain values; ratios of minus infinity, where nothing differs, are null."""
    smallest, asked = found.smallest, found.asked
    said = []
    if asked:
        said.append(f"{_setting(asked)} is the smallest transparent {asked.codec} setting.")
    elif found.asked_codec:
        said.append(f"No transparent {found.asked_codec} setting.")
    if smallest and smallest != asked:
        of_all = "Of all formats:" if found.asked_codec else "Smallest transparent setting:"
        said.append(f"{of_all} {_setting(smallest)}.")
    if asked or smallest:
        said.append("Model prediction over the whole length. Confirm by ear.")
    else:
        said.append("Use a lossless format.")
    sentence = " ".join(said)
    rate_hz = found.rate_hz
    return {
        "rungs": [rung_row(one) for one in found.rungs],
        "smallest_transparent": rung_row(smallest) if smallest else None,
        "smallest_asked": rung_row(asked) if asked else None, "asked": found.asked_codec,
        "passages": [
            {
                "why": one.why,
                "start_s": one.start_frame / rate_hz, "end_s": one.end_frame / rate_hz,
            }
            for one in found.passages
        ],
        "sentence": sentence,
    }  # fmt: skip


def _setting(one: Rung) -> str:
    return f"{one.codec}, {one.set_to} ({print_size(one.bytes)}, {one.kbps:.0f} kbit/s)"


def rung_row(one: Rung) -> dict[str, Any]:
    """A compared setting as plain values."""
    heard = one.heard
    return {
        "codec": one.codec, "container": one.container, "set_to": one.set_to, "kbps": round(one.kbps, 1),
        "bytes": one.bytes, "nmr_db": figure(heard.total_db), "nmr_p95_db": figure(heard.p95_db),
        "nmr_p99_db": figure(heard.p99_db), "above_mask_share": round(heard.above_share, 5),
        "decoded_peak_dbtp": figure(one.decoded_peak_dbtp), "bandwidth_hz": round(one.bandwidth_hz),
        "prediction": one.opinion.prediction, "reasons": list(one.opinion.reasons), "whole": one.whole,
        "mode": one.changes.mode, "set_kbps": one.changes.kbps, "set_quality": one.changes.coding_quality,
    }  # fmt: skip
