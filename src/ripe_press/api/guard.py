"""Access control: this machine, and with a token other machines. The guarantees are in docs/safety.md."""

import secrets
import socket
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ripe_press.core.errors import BadInput
from ripe_press.core.whole_files import write_whole
from ripe_press.core.words import quoted
from ripe_press.studio.log import logger

_LOG = logger("guard")
LOOPBACK = ("127.0.0.1", "localhost", "::1")
COOKIE = "ripe-press-token"
SHORTEST_TOKEN = 32
"""Letters of a token; a shorter one could be guessed, and an empty one lets everybody in."""
HEADERS = {
    "Content-Security-Policy": (
        "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; style-src 'self' 'unsafe-inline'; "
        "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}
"""Inline styles are allowed: the component library writes them at run time."""


def token_of(folder: Path) -> str:
    """The token of a data folder, created on first use in an owner-only file.

    Raises: BadInput ``serve.token`` for a token that is too short; Interrupted ``write.failed``.
    """
    path = folder / "token"
    token = path.read_text(encoding="utf-8", errors="replace").strip() if path.exists() else ""
    if not token:
        # Also where a power cut left an empty file.
        token = secrets.token_urlsafe(32)
        write_whole(path, token, 0o600)
    path.chmod(0o600)
    return checked_token(token)


def checked_token(token: str) -> str:
    """A token that is long enough. Raises: BadInput ``serve.token``."""
    if len(token) < SHORTEST_TOKEN:
        message = (
            f"The token has {len(token)} characters; minimum {SHORTEST_TOKEN}. "
            "Delete the file 'token' in the data folder for a new one."
        )
        raise BadInput("serve.token", message)
    return token


def own_names() -> tuple[str, ...]:
    """The names under which a network may know this machine."""
    name = socket.gethostname().lower()
    return tuple(dict.fromkeys((name, name.partition(".")[0] + ".local", socket.getfqdn().lower())))


def outward_address() -> str:
    """The address that others reach this machine by; empty where it has no network."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            # Nothing is sent: it only makes the system choose the address. (TEST-NET-1, RFC 5737.)
            probe.connect(("192.0.2.1", 9))
        except OSError:
            return ""
        return str(probe.getsockname()[0])


class Guard:
    """Looks at every request before the application does.

    ``hosts`` are the names under which it may be asked for, beside the very address that a request came in at. With
    a ``token`` every request has to show it, in the cookie that its link sets or as a bearer.
    """

    def __init__(self, app: ASGIApp, hosts: tuple[str, ...] = LOOPBACK, token: str = "") -> None:
        self._app = app
        self._hosts = hosts
        self._token = token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Passes a request on, or answers with one sentence."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        refusal = self._refusal(scope)
        if refusal:
            _LOG.warning("request refused", method=scope["method"], path=scope["path"], status=refusal.status_code)
            await refusal(scope, receive, guarded)
        else:
            await self._app(scope, receive, guarded)

    def _refusal(self, scope: Scope) -> Response | None:
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not self._is_ours(_name_of(host), scope):
            return _refused(421, "request.host", f"Unknown host {quoted(host)}. Use the address shown at start-up.")
        origin = headers.get("origin")
        if origin is not None and _place_of(origin) != host:
            return _refused(403, "request.origin", "Request from another site blocked.")
        if self._token:
            return self._without_token(scope, headers)
        return None

    def _is_ours(self, name: str, scope: Scope) -> bool:
        """Whether a name is one of this server's. With a token it is asked for at any address of this machine: a page
        elsewhere that had its own name bound to that address would still name itself.
        """
        came_in_at = (scope.get("server") or ("",))[0].removeprefix("::ffff:")
        return name in self._hosts or bool(self._token and name == came_in_at != "")

    def _without_token(self, scope: Scope, headers: Headers) -> Response | None:
        by_link = parse_qs(scope["query_string"].decode("latin-1")).get("token", [""])[0]
        if scope["method"] == "GET" and by_link and self._is_token(by_link):
            # One slash alone: two would lead to another host.
            answer = RedirectResponse("/" + scope["path"].lstrip("/\\"), status_code=303)
            secure = scope.get("scheme") == "https"
            answer.set_cookie(COOKIE, by_link, httponly=True, samesite="strict", secure=secure)
            return answer
        cookie = _cookie_of(headers.get("cookie", ""))
        shown = cookie or headers.get("authorization", "").removeprefix("Bearer ")
        if self._is_token(shown):
            return None
        message = "Access needs the link that was printed at start-up. Open that link."
        return _refused(401, "request.token", message)

    def _is_token(self, shown: str) -> bool:
        return secrets.compare_digest(shown.encode(), self._token.encode())


def _name_of(host: str) -> str:
    """The name in a Host header, without its port."""
    try:
        return urlsplit(f"//{host}").hostname or ""
    except ValueError:
        return ""


def _place_of(origin: str) -> str:
    """Name and port of an origin; empty where it is malformed."""
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return ""


def _cookie_of(cookies: str) -> str:
    """The token in a Cookie header; empty without one, or for an invalid header."""
    try:
        found = SimpleCookie(cookies).get(COOKIE)
    except CookieError:
        return ""
    return found.value if found else ""


def _refused(status: int, code: str, message: str) -> Response:
    return JSONResponse({"code": code, "message": message}, status_code=status)
