"""A file as mail: what its message says, how large it is to the byte before it is made, and what would fit.

Sources: RFC 5322 (headers), RFC 2045 6.8 (base64: four letters for three bytes, lines of 76), RFC 2231 (names).
"""

import hashlib
from datetime import datetime
from email.message import EmailMessage
from email.policy import SMTP
from email.utils import format_datetime

from ripe_press.core.formats.capabilities import CAPABILITIES, SMALL, Container
from ripe_press.core.formats.coding import bit_rates
from ripe_press.core.naming import fill_known
from ripe_press.core.sending.drop_off import DropOff, mail_place
from ripe_press.core.sending.parcel import Parcel, plain_line

MOST_BYTES = 150_000_000
"""Largest mail, whatever its server allows: it is built in memory, and few servers accept more."""
_LINE = 76
_TAGS_BYTES = 150_000
"""Room for tags and a cover besides the audio of a lossy file."""


def encoded_bytes(size: int) -> int:
    """How many bytes of a mail some bytes of a file become."""
    letters = 4 * -(-size // 3)
    return letters + 2 * -(-letters // _LINE)


def message_of(drop_off: DropOff, parcel: Parcel, data: bytes) -> EmailMessage:
    """The message with the file: the same bytes for the same transfer.

    Header texts come from tags and are reduced to one line.
    """
    place = mail_place(drop_off.place)
    fields = {**parcel.fields, "sha256": parcel.sha256}
    # Without an artist, no empty name is written.
    fields["artist"] = fields.get("artist") or "unknown artist"
    sender = drop_off.sender or f"ripe-press@{place.address.rpartition('@')[2]}"
    message = EmailMessage(policy=SMTP)
    message["From"] = sender
    message["To"] = place.address
    message["Subject"] = plain_line(fill_known(drop_off.subject, fields))[:200] or plain_line(parcel.name)
    message["Date"] = format_datetime(datetime.fromisoformat(parcel.day))
    key = f"{parcel.sha256} {parcel.name} {drop_off.word}"
    mark = hashlib.sha256(key.encode("utf-8", "backslashreplace")).hexdigest()[:40]
    message["Message-ID"] = f"<{mark}@{sender.rpartition('@')[2].strip('[]')}>"
    text = fill_known(drop_off.text, {name: plain_line(value) for name, value in fields.items()})
    message.set_content("\n".join(plain_line(line) for line in text.splitlines()) + "\n")
    suffix = parcel.name[parcel.name.rfind(".") :].lower()
    kind = next((can.media_type for can in CAPABILITIES.values() if can.suffix == suffix), "application/octet-stream")
    main, _, sub = kind.partition("/")
    message.add_attachment(data, maintype=main, subtype=sub, filename=plain_line(parcel.name) or "file")
    message.set_boundary(f"=={mark}==")
    return message


def overhead_bytes(drop_off: DropOff, parcel: Parcel) -> int:
    """How many bytes a mail has beside its file."""
    return len(message_of(drop_off, parcel, b"").as_bytes())


def mail_bytes(drop_off: DropOff, parcel: Parcel) -> int:
    """How many bytes the whole mail will have."""
    return overhead_bytes(drop_off, parcel) + encoded_bytes(parcel.bytes)


def room_for_file(limit_bytes: int, overhead: int) -> int:
    """The largest file whose mail stays within a limit, in bytes; 0 where none does."""
    room = limit_bytes - overhead
    size = max(0, 3 * room * _LINE // (4 * (_LINE + 2)) + 6)
    while size > 0 and encoded_bytes(size) > room:
        size -= 1
    return size


def what_fits(
    room_bytes: int, frames: int, rate_hz: int, channels: int, container: Container
) -> tuple[Container, int] | None:
    """The container and the highest bit rate in kbit/s that fit a size; None if none fits.

    A lossy container is kept; a lossless one becomes a common lossy one.
    """
    chosen: Container = (
        container if CAPABILITIES[container].lossy and bit_rates(container, rate_hz, channels) else SMALL
    )
    seconds = frames / rate_hz
    sound = room_bytes - min(_TAGS_BYTES, room_bytes // 10)
    fitting = [one for one in bit_rates(chosen, rate_hz, min(channels, 2)) if one * 125 * seconds <= sound]
    return (chosen, max(fitting)) if fitting else None
