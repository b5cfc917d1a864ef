"""Log late and failed answers with their path, never their content."""

import time

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ripe_press.studio.log import logger

_LOG = logger("answers")
SLOW_SECONDS = 0.5
_FAILED = 500


class Watch:
    """Looks at every answer as it begins."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Passes a request on and looks at its answer."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        began = time.monotonic()

        async def watched(message: Message) -> None:
            if message["type"] == "http.response.start":
                seconds, status = time.monotonic() - began, message["status"]
                # An upload lasts as long as its sender takes.
                late = seconds > SLOW_SECONDS and not scope["path"].endswith("/upload")
                if status >= _FAILED or late:
                    _LOG.warning(
                        "answer failed" if status >= _FAILED else "answer was late",
                        method=scope["method"], path=scope["path"], status=status, ms=round(seconds * 1000),
                    )  # fmt: skip
            await send(message)

        await self._app(scope, receive, watched)
