"""A mail server: receives mail by SMTP, and stores each as a file that any mail program opens.

Faults, one word a line in ``faults.txt`` of its folder: ``away`` hangs up, ``slow`` lets wait, ``full`` has no room,
``refuse`` does not take it, ``nonsense`` answers what means nothing, ``dies`` takes it and hangs up before it says so.
"""

import argparse
import asyncio
import json
import signal
import socket
import sys
import threading
import warnings
from collections.abc import Iterable
from contextlib import suppress
from email import message_from_bytes
from email.policy import SMTP as SMTP_POLICY
from pathlib import Path
from typing import Any

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, AuthResult, Envelope, LoginPassword, Session

from ripe_press.core.naming import safe_stem
from ripe_press.rack.faults import SLOW_S, Faults

ADDRESS = "127.0.0.1"
LIMIT_BYTES = 25_000_000


class MailDesk:
    """What happens to mail that comes in. A mail that is there already, by its Message-ID, is not kept twice."""

    def __init__(self, folder: Path, faults: Iterable[str] = ()) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self.folder = folder
        self.faults = Faults(folder, faults)
        self._known = {str(_read(one)["Message-ID"]) for one in self.mails()}

    def mails(self) -> list[Path]:
        """The mails that were taken, in their order."""
        return sorted(self.folder.glob("*.eml"))

    async def handle_DATA(self, server: SMTP, _session: Session, envelope: Envelope) -> str:  # noqa: N802 - aiosmtpd's
        """Receive a mail, or commit the set fault."""
        fault = self.faults.next()
        match fault:
            case "away":
                _hang_up(server)
                return "421 4.3.2 Gone"
            case "slow":
                await asyncio.sleep(SLOW_S)
            case "full":
                return "452 4.2.2 Mailbox full"
            case "refuse":
                return "554 5.7.1 Message rejected by the mailbox"
            case "nonsense":
                return "plums and pears"
            case _:
                pass
        said = self._keep(envelope.original_content or b"")
        if fault == "dies":
            _hang_up(server)
        return said

    def _keep(self, mail: bytes) -> str:
        message = message_from_bytes(mail, policy=SMTP_POLICY)
        known = str(message["Message-ID"])
        if known in self._known:
            return "250 2.0.0 Already delivered"
        number = len(self.mails()) + 1
        path = self.folder / f"{number:04d} {safe_stem(str(message['Subject'] or 'no subject'))[:80]}.eml"
        part = path.with_suffix(".part")
        part.write_bytes(mail)
        part.rename(path)
        self._known.add(known)
        return f"250 2.0.0 Delivered as {number}"


def _hang_up(server: SMTP) -> None:
    if isinstance(server.transport, asyncio.Transport):
        server.transport.abort()


def _read(path: Path) -> Any:
    with path.open("rb") as file:
        return message_from_bytes(file.read(100_000), policy=SMTP_POLICY)


class Served(Controller):
    """A mail server at a port, with an announced limit, and an optional login."""

    def __init__(self, desk: MailDesk, port: int = 0, limit_bytes: int = LIMIT_BYTES, login: str = "") -> None:
        self._limit_bytes = limit_bytes
        self._login = login
        # The library connects to its own port to see that it is there, and needs one that is known by then.
        super().__init__(desk, hostname=ADDRESS, port=port or free_port())

    def factory(self) -> SMTP:
        """One connection."""
        wants = bool(self._login)
        with warnings.catch_warnings():
            # It warns of unencrypted logins, which here stay on this machine.
            warnings.simplefilter("ignore", UserWarning)
            return SMTP(
                self.handler, data_size_limit=self._limit_bytes, ident="Sluice mail server", loop=self.loop,
                authenticator=self._let_in if wants else None, auth_required=wants, auth_require_tls=False,
            )  # fmt: skip

    def _let_in(self, _server: SMTP, _session: Session, _envelope: Envelope, _how: str, data: object) -> AuthResult:
        given = isinstance(data, LoginPassword) and f"{data.login.decode()}:{data.password.decode()}" == self._login
        return AuthResult(success=given, handled=False)


def free_port() -> int:
    """A free port."""
    with socket.socket() as probe:
        probe.bind((ADDRESS, 0))
        return int(probe.getsockname()[1])


def main() -> None:
    """Run the server until its standard input is closed."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--port", type=int, default=0)
    words.add_argument("--folder", type=Path, required=True)
    words.add_argument("--limit", type=int, default=LIMIT_BYTES)
    given = words.parse_args()
    served = Served(MailDesk(given.folder), given.port, given.limit)
    try:
        served.start()
    except OSError as error:
        raise SystemExit(str(error)) from error
    # The parent process decides the end, not an interrupt for both.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    print(json.dumps({"port": served.port, "folder": str(given.folder)}), flush=True)  # noqa: T201 - how it says its port
    wait_for_end()
    served.stop()


def wait_for_end() -> None:
    """Wait until the parent process closes the standard input, or ends this one."""
    over = threading.Event()
    signal.signal(signal.SIGTERM, lambda _number, _frame: over.set())

    def read() -> None:
        with suppress(OSError, ValueError):
            while sys.stdin.buffer.read(1):
                pass
        over.set()

    threading.Thread(target=read, daemon=True).start()
    while not over.wait(0.2):
        pass


if __name__ == "__main__":
    main()
