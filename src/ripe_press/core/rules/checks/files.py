"""Rules about the file itself: its tags, its picture, its size, and what decoding it gives."""

from datetime import date

from ripe_press.core.errors import RipePressError
from ripe_press.core.formats.capabilities import CAPABILITIES, is_float
from ripe_press.core.formats.riff import MAX_32
from ripe_press.core.rules.case import Case
from ripe_press.core.rules.findings import Finding
from ripe_press.core.rules.rule import Said, speaks
from ripe_press.core.tags.codes import barcode_problem, isrc_problem
from ripe_press.core.tags.cover import prepared_cover
from ripe_press.core.tags.forms import short_key, whole_tempo
from ripe_press.core.tags.sheet import COVER, FIELDS, Values, of_total
from ripe_press.core.units import print_db, print_rate

SIGNED_LIMIT = 2**31
"""Many WAV readers stop here, though the format allows 4 GiB (common practice, no source)."""


@speaks("before", "after", ids=("becomes_rf64", "past_two_gib"))
def becomes_rf64(case: Case) -> Said:
    """A WAV file that is longer than its 32-bit sizes, or than many readers go."""
    wide = CAPABILITIES[case.path.codec.container].wide
    if not wide or not case.expected.size:
        return
    size = case.expected.size.low
    if size > MAX_32 or wide == "always":
        why = "Over 4 GiB: RF64" if size > MAX_32 else "RF64"
        sentence = f"{why}, which some programs cannot open. Use CAF or FLAC to avoid it."
        yield Finding("becomes_rf64", "look", sentence)
    elif size > SIGNED_LIMIT:
        sentence = f"{size / 2**30:.1f} GiB; some WAV readers stop at 2 GiB. Ask the recipient."
        yield Finding("past_two_gib", "look", sentence)


PLAYED_RATE_HZ = 48_000
"""Up to here every player of lossy files goes (common practice, no source)."""


@speaks("before", "after")
def played_by_few(case: Case) -> Said:
    """A lossy file at a rate that the codec has and most players have not."""
    codec = case.path.codec
    if codec.lossy and codec.rate_hz > PLAYED_RATE_HZ:
        title = CAPABILITIES[codec.container].title
        sentence = f"Many players reject {title} at {print_rate(codec.rate_hz)}. Choose 48 kHz or 44.1 kHz."
        yield Finding("played_by_few", "look", sentence)


@speaks("before", "after", ids=("clips_when_decoded", "will_clip_when_decoded"))
def clips_when_decoded(case: Case) -> Said:
    """A lossy file whose decoded peaks pass full scale: players that decode to integers clip them.

    Before it is made: the encoder's input is already above full scale, and coding adds to it.
    """
    peak = case.expected.true_peak_dbtp
    if not case.path.codec.lossy or peak is None or peak <= 0.0:
        return
    if case.proof is None:
        sentence = f"True peak {print_db(peak, 'dBTP')}; encoding adds more. Set the true peak to −1 dBTP."
        yield Finding("will_clip_when_decoded", "look", sentence)
    else:
        sentence = f"Decodes to {print_db(peak, 'dBTP')}. Lower the level by {peak + 0.1:.1f} dB or raise the bit rate."
        yield Finding("clips_when_decoded", "look", sentence)


@speaks("before", "after")
def float_over_full_scale(case: Case) -> Said:
    """Floating point beyond the range of integers: valid here, clipped by players or converters."""
    peak = case.expected.sample_peak_dbfs
    if is_float(case.path.codec.encoding) and peak is not None and peak > 0.0:
        sentence = f"Peak {print_db(peak)} clips in integer formats. Lower the level or inform the recipient."
        yield Finding("float_over_full_scale", "look", sentence)


@speaks("before", "after", ids=("tag_written_wrongly",))
def tags_written_wrongly(case: Case) -> Said:
    """Texts of the sheet that are not written as they must be."""
    for field, text in problems(case.path.tags.content.values):
        yield Finding("tag_written_wrongly", "look", text, field=field)


@speaks("before", "after", ids=("cover_missing", "cover_unreadable", "cover_not_square"))
def cover_as_expected(case: Case) -> Said:
    """The picture is there where it is seen, can be read, and is square."""
    tags, can = case.path.tags.content, CAPABILITIES[case.path.codec.container]
    if can.shows_picture and not tags.cover:
        sentence = "No cover: black picture. Add one to the tag sheet."
        yield Finding("cover_missing", "look", sentence, field=COVER)
    if not tags.cover or not can.pictures:
        return
    try:
        cover = prepared_cover(tags.cover)
    except RipePressError as error:
        yield Finding("cover_unreadable", "look", error.message, field=COVER)
        return
    if not cover.square and not can.shows_picture:
        sentence = f"Cover is {cover.width} × {cover.height} pixels. Use a square picture."
        yield Finding("cover_not_square", "look", sentence, field=COVER)


def problems(values: Values) -> tuple[tuple[str, str], ...]:
    """(Field, sentence) for everything on a sheet that is not written as it must be."""
    found = []
    for field, text in values:
        check = _CHECKS.get(field)
        problem = check(text) if check else None
        if problem:
            found.append((field, f"{FIELDS[field].title}: “{text}” {problem}."))
    return tuple(found)


def _date(text: str) -> str | None:
    try:
        date.fromisoformat({4: f"{text}-01-01", 7: f"{text}-01"}.get(len(text), text))
    except ValueError:
        return "is not a date. Use 2026, 2026-11 or 2026-11-23"
    return None if len(text) in (4, 7, 10) else "is not a date. Use 2026, 2026-11 or 2026-11-23"


def _number_of_total(text: str) -> str | None:
    number, total = of_total(text)
    if not number:
        return "is not a number. Use 3 or 3/12"
    return "is past its total. Correct one of the two" if total and number > total else None


def _tempo(text: str) -> str | None:
    whole = whole_tempo(text)
    return None if whole is not None and 10 <= whole <= 1000 else "is not a tempo. Use 10 to 1000 bpm"


def _key(text: str) -> str | None:
    return None if short_key(text) else "is not a key. Use A, Bbm or F#m"


def _language(text: str) -> str | None:
    return (
        None
        if len(text) == 3 and text.isascii() and text.isalpha()
        else "is not a language code. Use three letters of ISO 639-2, for example eng"
    )


def _email(text: str) -> str | None:
    name, at, host = text.partition("@")
    return None if name and at and "." in host and " " not in text else "is not an e-mail address. Use name@example.org"


def _web(text: str) -> str | None:
    return (
        None
        if text.startswith(("https://", "http://")) and " " not in text
        else "is not a web address. Start it with https://"
    )


_CHECKS = {
    "isrc": isrc_problem, "barcode": barcode_problem, "date": _date, "track": _number_of_total,
    "disc": _number_of_total, "tempo": _tempo, "key": _key, "language": _language, "contact_email": _email, "web": _web,
}  # fmt: skip
