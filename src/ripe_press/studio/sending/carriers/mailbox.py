"""Delivery by mail: one message per file, over SMTP (RFC 5321), within the size limit (RFC 1870)."""

import hashlib
import smtplib
import socket
import ssl
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from ripe_press.core.errors import BadInput, Conflict
from ripe_press.core.formats.capabilities import CAPABILITIES, PLAIN, kinds_of
from ripe_press.core.sending.drop_off import DropOff, mail_place
from ripe_press.core.sending.mail import (
    MOST_BYTES,
    encoded_bytes,
    message_of,
    overhead_bytes,
    room_for_file,
    what_fits,
)
from ripe_press.core.sending.parcel import Parcel, Reason, plain_line
from ripe_press.core.units import print_size
from ripe_press.core.words import quoted
from ripe_press.studio.sending.carriers.carrier import (
    DropOffState,
    RunningTransfer,
    TransferResult,
    changed,
    file_of,
    later,
    stopped_before,
)

_SECONDS = 20.0
MOST_SECONDS = 60.0
"""So long a whole answer may take."""
_PIECE = 1 << 16
_LOOK_S = 0.1
_FOR_NOW = range(400, 500)
_NEAR = ("localhost", "127.0.0.1")


class MailCarrier:
    """Carries files as mail. The same transfer is always the same message with the same Message-ID: if a server
    accepted it but could not confirm, the recipient recognises the repetition.
    """

    def __init__(self, drop_off: DropOff, password: str, should_stop: Callable[[], bool] = lambda: False) -> None:
        self.drop_off = drop_off
        self._should_stop = should_stop
        self._place = mail_place(drop_off.place)
        self._password = password

    def carry(self, parcel: Parcel, _kept: dict[str, Any], hand: RunningTransfer) -> TransferResult:
        """Sends the mail; what would be too large is refused before a byte of it is made."""
        path = file_of(parcel)
        overhead = overhead_bytes(self.drop_off, parcel)
        size = overhead + encoded_bytes(parcel.bytes)
        own = self.drop_off.limit_bytes
        if own and (refused := self._too_large(parcel, size, overhead, own)):
            return refused
        hand.progress(0, size)
        with self._desk() as desk:
            # The server's announced limits are checked before anything is read.
            if refused := self._too_large(parcel, size, overhead, min(_limit(desk) or MOST_BYTES, MOST_BYTES)):
                return refused
            data = path.read_bytes()
            if len(data) != parcel.bytes or hashlib.sha256(data).hexdigest() != parcel.sha256:
                raise changed(parcel)
            hand.go_on()
            message = message_of(self.drop_off, parcel, data)
            said = self._send(desk, str(message["From"]), message.as_bytes())
        hand.progress(size, size)
        receipt = {"message_id": str(message["Message-ID"]), "said": said, "mail_bytes": size, "sha256": parcel.sha256}
        return TransferResult("taken", f"Accepted by {self._place.host}: {said}", receipt)

    def look(self) -> DropOffState:
        """Return whether the server answers, accepts the login, and its largest mail. Raises: as `carry`."""
        with self._desk() as desk:
            limit = _limit(desk)
        room = f"max message size {print_size(limit)}" if limit else "no message size limit"
        return DropOffState(f"Connected to {self._place.host}, {room}.", limit)

    def _desk(self) -> "_Desk":
        return _Desk(self._place.host, self._place.port, self.drop_off.user, self._password, self._should_stop)

    def _send(self, desk: smtplib.SMTP, sender: str, mail: bytes) -> str:
        options = [f"size={len(mail)}"] if desk.has_extn("size") else []
        code, said = desk.mail(sender, options)
        _check(code, said)
        code, said = desk.rcpt(self._place.address)
        _check(code, said)
        code, said = desk.data(mail)
        _check(code, said)
        return _words(said) or "no text"

    def _too_large(self, parcel: Parcel, size: int, overhead: int, limit: int) -> TransferResult | None:
        """The rejection of a mail that is too large: by how much, and a format that fits."""
        if size <= limit:
            return None
        about = parcel.about
        container = (*kinds_of(str(about.get("container")), str(about.get("codec")), False), PLAIN)[0]
        frames, rate_hz, channels = (int(about.get(one) or 0) for one in ("frames", "sample_rate_hz", "channels"))
        room = room_for_file(limit, overhead)
        fits = what_fits(room, frames, rate_hz, channels, container) if rate_hz and channels else None
        sentence = f"As mail {print_size(size)} ({size:,} bytes), limit {print_size(limit)} ({limit:,} bytes). "
        if fits:
            sentence += f"{CAPABILITIES[fits[0]].title} at {fits[1]} kbit/s fits."
        else:
            sentence += "Use another drop-off."
        asked = (str(limit), *((fits[0], str(fits[1])) if fits else ()))
        return TransferResult("refused", sentence, reasons=(Reason("size", sentence, asked),))


class _Line(smtplib.SMTP):
    """A connection to a server on which a whole answer has a time limit, even if its bytes trickle. A request to stop
    takes effect between two pieces of a mail and waits only for the last answer, which confirms acceptance.
    """

    def __init__(self, host: str, port: int, should_stop: Callable[[], bool]) -> None:
        self._should_stop = should_stop
        self._taken_up = False
        super().__init__(host, port, timeout=_SECONDS)

    def send(self, s: Any) -> None:
        """Sends in pieces, each of which has its time."""
        data = s.encode(self.command_encoding) if isinstance(s, str) else s
        for at in range(0, len(data), _PIECE):
            if self._should_stop():
                raise stopped_before()
            super().send(data[at : at + _PIECE])
        self._taken_up = len(data) > 2 and data.endswith(b"\r\n.\r\n")

    def getreply(self) -> tuple[int, bytes]:
        """An answer. Raises: TimeoutError where it is not whole in time; Cancelled ``send.stopped``."""
        over = threading.Event()
        why: list[Exception] = []

        def watch() -> None:
            until = time.monotonic() + MOST_SECONDS
            while not over.wait(_LOOK_S):
                if self._should_stop() and not self._taken_up:
                    why.append(stopped_before())
                elif time.monotonic() > until:
                    why.append(TimeoutError(f"incomplete answer after {MOST_SECONDS:.0f} s"))
                if why:
                    with suppress(OSError):
                        if self.sock:
                            self.sock.shutdown(socket.SHUT_RDWR)
                    return

        threading.Thread(target=watch, name="watching", daemon=True).start()
        try:
            return super().getreply()
        except (OSError, smtplib.SMTPException):
            if why:
                raise why[0] from None
            raise
        finally:
            over.set()


class _Desk:
    """A connected mail server; every error is converted to its meaning for the transfer."""

    def __init__(self, host: str, port: int, user: str, password: str, should_stop: Callable[[], bool]) -> None:
        self._where = (host, port)
        self._should_stop = should_stop
        self._user = user
        self._password = password
        self._smtp: smtplib.SMTP | None = None

    def __enter__(self) -> smtplib.SMTP:
        try:
            return self._begun()
        except BaseException as error:
            self._close()
            self._tell(error)
            raise

    def __exit__(self, _kind: object, error: BaseException | None, _where: object) -> None:
        self._close()
        if error is not None:
            self._tell(error)

    def _begun(self) -> smtplib.SMTP:
        host, port = self._where
        self._smtp = desk = _Line(host, port, self._should_stop)
        desk.ehlo_or_helo_if_needed()
        if desk.has_extn("starttls"):
            desk.starttls(context=ssl.create_default_context())
            desk.ehlo()
        elif self._user and host not in _NEAR:
            message = f"{host} has no encryption; password not sent."
            raise Conflict("send.no-tls", message)
        if self._user:
            desk.login(self._user, self._password)
        return desk

    def _close(self) -> None:
        if self._smtp:
            with suppress(OSError, smtplib.SMTPException):
                self._smtp.quit()
            self._smtp.close()

    def _tell(self, error: BaseException) -> None:
        host, port = self._where
        match error:
            case smtplib.SMTPAuthenticationError():
                message = f"{host} rejected the password of {quoted(self._user)}. Update it in Outbox."
                raise BadInput("send.login", message) from error
            case smtplib.SMTPResponseException(smtp_code=code, smtp_error=said) if code in _FOR_NOW or code < 200:
                message = f"{host} is temporarily unavailable: {code} {_words(said)}"
                raise later(message) from error
            case smtplib.SMTPResponseException(smtp_code=code, smtp_error=said):
                message = f"Rejected by {host}: {code} {_words(said)}"
                raise Conflict("send.refused", message) from error
            case ssl.SSLError():
                message = f"No secure connection to {host}: {error}. Nothing sent."
                raise later(message) from error
            case smtplib.SMTPException() | OSError():
                why = plain_line(str(error))[:200] or type(error).__name__
                message = f"No mail server at {host}, port {port}: {why}."
                raise later(message) from error


def _check(code: int, said: bytes) -> None:
    if not 200 <= code < 300:
        raise smtplib.SMTPResponseException(code, said)


def _limit(desk: smtplib.SMTP) -> int:
    said = desk.esmtp_features.get("size", "") if desk.does_esmtp else ""
    return int(said) if said.isascii() and said.isdigit() and len(said) < 16 else 0


def _words(said: bytes | str) -> str:
    text = said.decode("utf-8", "replace") if isinstance(said, bytes) else said
    return plain_line(text)[:300]
