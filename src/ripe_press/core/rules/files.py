"""Rules about the file itself: its tags, its picture, its size, and what decoding it gives."""

from datetime import date

from ripe_press.core.briefs.library import Brief
from ripe_press.core.engine import stations as st
from ripe_press.core.errors import RipePressError
from ripe_press.core.formats._riff import MAX_32
from ripe_press.core.formats.capabilities import CAPABILITIES, is_float
from ripe_press.core.naming import Placed
from ripe_press.core.rules.findings import Finding
from ripe_press.core.tags.codes import barcode_problem, isrc_problem
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.forms import mapping, short_key, whole_tempo
from ripe_press.core.tags.sheet import COVER, FIELDS, FileTags, Values, of_total
from ripe_press.core.units import print_db, print_rate

SIGNED_LIMIT = 2**31
"""Many readers of WAV stop here, though the format goes on to 4 GiB (common practice, no source)."""


def becomes_rf64(codec: st.Codec, size: int) -> Finding | None:
    """A WAV file that is longer than its 32-bit sizes, or than many readers go."""
    if codec.container not in ("wav", "bwf", "rf64"):
        return None
    if size > MAX_32 or codec.container == "rf64":
        why = "is past the 4 GiB of WAV, so it becomes RF64" if size > MAX_32 else "is RF64"
        sentence = (
            f"This file {why}: programs that read only plain WAV, older samplers, players and picture editors among "
            f"them, may refuse it. CAF and FLAC have no such limit."
        )
        return Finding("becomes_rf64", "look", sentence)
    if size > SIGNED_LIMIT:
        sentence = f"This file has {size / 2**30:.1f} GiB; many WAV readers stop at 2. Ask, or take a shorter range."
        return Finding("past_two_gib", "look", sentence)
    return None


PLAYED_RATE_HZ = 48_000
"""Up to here every player of lossy files goes (common practice, no source)."""


def played_by_few(codec: st.Codec) -> Finding | None:
    """A lossy file at a rate that the codec has and most players have not."""
    can = CAPABILITIES[codec.container]
    if not can.lossy or codec.rate_hz <= PLAYED_RATE_HZ:
        return None
    sentence = (
        f"{can.title} at {print_rate(codec.rate_hz)} is refused by many players, and its bits go where nothing is "
        f"heard. Choose {print_rate(PLAYED_RATE_HZ)} or 44.1 kHz at the rate station."
    )
    return Finding("played_by_few", "look", sentence)


def clash_told(placed: Placed) -> Finding | None:
    """Another file has the name already: what was decided about it, before the run."""
    if not placed.clash:
        return None
    # That both are kept needs no decision: the name with its number is seen.
    name = placed.path.name
    if placed.clash == "ticket":
        return Finding("name_twice", "look", f"Another file of this ticket has the same name; this one is {name!r}.")
    if placed.skipped:
        return Finding("name_skipped", "look", f"{name!r} is there already, so this file is not pressed.")
    if placed.replaces:
        return Finding("name_replaced", "look", f"{name!r} is there already and will be replaced.")
    return None


def clips_when_decoded(codec: st.Codec, true_peak_dbtp: float | None) -> Finding | None:
    """A lossy file whose decoded peaks pass full scale: players that decode to integers clip them."""
    if not CAPABILITIES[codec.container].lossy or true_peak_dbtp is None or true_peak_dbtp <= 0.0:
        return None
    sentence = (
        f"Decoded, this file reaches {print_db(true_peak_dbtp, 'dBTP')}: players will clip it. "
        f"Lower the level by {true_peak_dbtp + 0.1:.1f} dB, or give it more bits."
    )
    return Finding("clips_when_decoded", "look", sentence)


def float_over_full_scale(codec: st.Codec, sample_peak_dbfs: float | None) -> Finding | None:
    """Floating point that holds what no integers do: fine here, and clipped by whoever plays or converts the file."""
    if not is_float(codec.encoding) or sample_peak_dbfs is None or sample_peak_dbfs <= 0.0:
        return None
    sentence = (
        f"Samples reach {print_db(sample_peak_dbfs)}: floating point holds them, but who plays this file, or makes "
        f"integers of it, clips them. Lower the level, or tell whoever gets it."
    )
    return Finding("float_over_full_scale", "look", sentence)


def will_clip_when_decoded(codec: st.Codec, true_peak_dbtp: float) -> Finding | None:
    """The same before it is made: what goes into the codec is above full scale already, and coding adds to it."""
    if not CAPABILITIES[codec.container].lossy or true_peak_dbtp <= 0.0:
        return None
    sentence = (
        f"Peaks of {print_db(true_peak_dbtp, 'dBTP')} go into this file: players will clip them, and coding adds to "
        f"them. Bring the true peak to −1 dBTP at the level station."
    )
    return Finding("will_clip_when_decoded", "look", sentence)


def findings_for_tags(brief: Brief, codec: st.Codec, tags: FileTags) -> tuple[Finding, ...]:
    """What the brief needs and the sheet has not, what is written wrongly, and what this container cannot hold."""
    given, can, names = dict(tags.values), CAPABILITIES[codec.container], mapping(codec.container)
    found = []
    for field in brief.tags:
        title = "a cover picture" if field == COVER else FIELDS[field].named
        there = bool(tags.cover) if field == COVER else field in given
        if not there:
            sentence = f"{brief.title} needs {title}; the tag sheet has none."
            found.append(Finding(f"needs_{field}", "look", sentence, field=field))
        elif not names[field]:
            sentence = f"{brief.title} needs {title}, and {can.title} has no place for it. Choose another format."
            found.append(Finding(f"cannot_hold_{field}", "look", sentence, field=field))
    found += [Finding(f"tag_{field}", "look", text, field=field) for field, text in problems(tags.values)]
    found += [Finding(f"cover_{at}", "look", text, field=COVER) for at, text in enumerate(_of_cover(codec, tags))]
    return tuple(found)


def problems(values: Values) -> tuple[tuple[str, str], ...]:
    """(Field, sentence) for everything on a sheet that is not written as it must be."""
    found = []
    for field, text in values:
        check = _CHECKS.get(field)
        problem = check(text) if check else None
        if problem:
            found.append((field, f"{FIELDS[field].title} {text!r} {problem}."))
    return tuple(found)


def _of_cover(codec: st.Codec, tags: FileTags) -> list[str]:
    if codec.container == "video" and not tags.cover:
        return ["There is no cover picture, so the video shows a dark field. Put one on the tag sheet."]
    if not tags.cover or not CAPABILITIES[codec.container].pictures:
        return []
    try:
        cover = prepared_cover(tags.cover)
    except RipePressError as error:
        return [error.message]
    if cover.square or codec.container == "video":
        return []
    return [f"The cover is {cover.width} × {cover.height}; shops and players expect a square."]


def _date(text: str) -> str | None:
    try:
        date.fromisoformat({4: f"{text}-01-01", 7: f"{text}-01"}.get(len(text), text))
    except ValueError:
        return "is not a date; write 2026, 2026-11 or 2026-11-23"
    return None if len(text) in (4, 7, 10) else "is not a date; write 2026, 2026-11 or 2026-11-23"


def _number_of_total(text: str) -> str | None:
    number, total = of_total(text)
    if not number:
        return "is not a number; write 3 or 3/12"
    return "lies past its total" if total and number > total else None


def _tempo(text: str) -> str | None:
    whole = whole_tempo(text)
    return None if whole is not None and 10 <= whole <= 1000 else "is not a tempo from 10 to 1000 beats a minute"


def _key(text: str) -> str | None:
    return None if short_key(text) else "is not a key; write A, Bbm or F#m"


def _language(text: str) -> str | None:
    return None if len(text) == 3 and text.isascii() and text.isalpha() else "is not three letters, as ISO 639-2 has it"


def _email(text: str) -> str | None:
    name, at, host = text.partition("@")
    return None if name and at and "." in host and " " not in text else "is not an e-mail address"


def _web(text: str) -> str | None:
    return None if text.startswith(("https://", "http://")) and " " not in text else "does not begin with https://"


_CHECKS = {
    "isrc": isrc_problem, "barcode": barcode_problem, "date": _date, "track": _number_of_total,
    "disc": _number_of_total, "tempo": _tempo, "key": _key, "language": _language, "contact_email": _email, "web": _web,
}  # fmt: skip
