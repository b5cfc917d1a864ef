"""ID3v2.3 and 2.4: for MP3 files themselves, and as a chunk of WAV and AIFF."""

import io
from typing import Any

from mutagen import id3 as frames

from ripe_press.core.tags.cover import Cover
from ripe_press.core.tags.forms import EXACT, ID3, short_key, whole_tempo
from ripe_press.core.tags.sheet import FileTags

_UTF8, _UTF16 = 3, 1


def id3_frames(tags: FileTags, rate_hz: int, cover: Cover | None, gain: dict[str, str]) -> frames.ID3:
    """Every field of tags that are in the form of their container as frames, in the version that was asked for."""
    made = frames.ID3()
    # Version 2.3 has no UTF-8.
    coding = _UTF8 if tags.id3_version == "2.4" else _UTF16
    language = (tags.text("language") or "und")[:3].lower()
    for field, text in tags.values:
        short = {"tempo": _whole, "key": short_key}.get(field, _itself)(text)
        if short:
            made.add(_frame(ID3[field], short, coding, language))
        if short != text:
            made.add(frames.TXXX(encoding=coding, desc=EXACT[field], text=text))
    for name, text in gain.items():
        made.add(frames.TXXX(encoding=coding, desc=name, text=text))
    if cover:
        made.add(
            frames.APIC(encoding=0, mime=cover.mime, type=frames.PictureType.COVER_FRONT, desc="", data=cover.data)
        )
    _add_chapters(made, tags, rate_hz, coding)
    if tags.id3_version == "2.3":
        made.update_to_v23()
    return made


def id3_bytes(tags: FileTags, rate_hz: int, cover: Cover | None) -> bytes:
    """A whole tag, for a chunk; empty without anything in it."""
    made = id3_frames(tags, rate_hz, cover, {})
    if not made:
        return b""
    out = io.BytesIO()
    made.save(out, v2_version=3 if tags.id3_version == "2.3" else 4, v1=0, padding=lambda _info: 0)
    return out.getvalue()


def _whole(text: str) -> str:
    return str(whole_tempo(text) or "")


def _itself(text: str) -> str:
    return text


def _frame(name: str, text: str, coding: int, language: str) -> Any:
    if name.startswith("TXXX:"):
        return frames.TXXX(encoding=coding, desc=name.removeprefix("TXXX:"), text=text)
    if name == "COMM":
        return frames.COMM(encoding=coding, lang=language, desc="", text=text)
    if name == "USLT":
        return frames.USLT(encoding=coding, lang=language, desc="", text=text)
    if name == "WOAR":
        return frames.WOAR(url=text)
    return getattr(frames, name)(encoding=coding, text=text)


def _add_chapters(made: frames.ID3, tags: FileTags, rate_hz: int, coding: int) -> None:
    """Markers as chapters in milliseconds (id3.org, id3v2-chapters-1.0).

    Each ends where the next begins, the last one with the file.
    """
    if not tags.markers:
        return
    starts = [round(marker.frame * 1000 / rate_hz) for marker in tags.markers]
    end = max(starts[-1], round(tags.frames * 1000 / rate_hz))
    names = [f"ch{number}" for number in range(1, len(starts) + 1)]
    flags = frames.CTOCFlags.TOP_LEVEL | frames.CTOCFlags.ORDERED
    made.add(frames.CTOC(element_id="toc", flags=flags, child_element_ids=names, sub_frames=[]))
    unknown = 0xFFFF_FFFF
    for name, start, stop, marker in zip(names, starts, [*starts[1:], end], tags.markers, strict=True):
        title = frames.TIT2(encoding=coding, text=marker.name)
        made.add(
            frames.CHAP(
                element_id=name, start_time=start, end_time=stop, start_offset=unknown, end_offset=unknown,
                sub_frames=[title],
            )
        )  # fmt: skip
