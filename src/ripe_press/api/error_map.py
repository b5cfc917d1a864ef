"""Which error class answers with which status; the body always has the code, the sentence and the facts."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from starlette.requests import ClientDisconnect

from ripe_press.core.errors import (
    BadInput,
    Cancelled,
    Conflict,
    Interrupted,
    NotFound,
    RipePressError,
    Unreadable,
    Unsupported,
)
from ripe_press.core.requests.document import first_problem
from ripe_press.store.db import Clash
from ripe_press.studio.log import logger

_LOG = logger("answers")

STATUS: dict[type[RipePressError], int] = {
    BadInput: 422,
    Unsupported: 422,
    Unreadable: 422,
    NotFound: 404,
    Conflict: 409,
    Interrupted: 503,
    Cancelled: 503,
}


def answer_errors(app: FastAPI) -> None:
    """Teaches an application to answer the one error family."""

    @app.exception_handler(RequestValidationError)
    def refuse(_request: Request, error: RequestValidationError) -> JSONResponse:
        place, what = first_problem(error.errors())
        if place.rpartition(".")[2] == "secret":
            # A value typed as a secret is never repeated, not even to its user.
            what = "is longer than 1,000 characters"
        message = f"Invalid {place.removeprefix('body.')}: {what}."
        return JSONResponse({"code": "request.unreadable", "message": message}, status_code=422)

    @app.exception_handler(ClientDisconnect)
    async def gone(_request: Request, _error: ClientDisconnect) -> Response:
        # The client has disconnected: no answer is needed, and nothing failed.
        return Response(status_code=400)

    @app.exception_handler(Clash)
    def changed_meanwhile(request: Request, error: Exception) -> JSONResponse:
        # An internal error would look the same: it must be logged.
        _LOG.warning("rows contradict each other", path=request.url.path, why=str(error))
        message = "Changed elsewhere at the same time; your change was not saved. Reload and try again."
        return JSONResponse({"code": "store.changed", "message": message}, status_code=409)

    @app.exception_handler(OverflowError)
    def too_large(_request: Request, _error: OverflowError) -> JSONResponse:
        message = "A number in the request is too large. Check it."
        return JSONResponse({"code": "request.too-large", "message": message}, status_code=422)

    @app.exception_handler(UnicodeError)
    def no_text(_request: Request, _error: UnicodeError) -> JSONResponse:
        message = "The text has invalid characters. Type it again."
        return JSONResponse({"code": "request.no-text", "message": message}, status_code=422)

    @app.exception_handler(OSError)
    def not_written(_request: Request, error: OSError) -> JSONResponse:
        message = f"Disk error: {error.strerror or error}. Check the disk and try again."
        return JSONResponse({"code": "disk.failed", "message": message}, status_code=507)

    @app.exception_handler(RipePressError)
    def answer(_request: Request, error: RipePressError) -> JSONResponse:
        body = {"code": error.code, "message": error.message}
        status = STATUS[type(error)]
        # A client rejected for lack of room frees its connection.
        return JSONResponse(body, status_code=status, headers={"Connection": "close"} if status == 503 else None)
