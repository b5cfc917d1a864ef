"""Which error class answers with which status; the body always has the code, the sentence and the facts."""

from fastapi import FastAPI, Request
from fastapi.responses import JSONResponse

from ripe_press.core.errors import (
    BadInput,
    Conflict,
    Interrupted,
    NotFound,
    RipePressError,
    Unreadable,
    Unsupported,
)

STATUS: dict[type[RipePressError], int] = {
    BadInput: 422,
    Unsupported: 422,
    Unreadable: 422,
    NotFound: 404,
    Conflict: 409,
    Interrupted: 503,
}


def answer_errors(app: FastAPI) -> None:
    """Teaches an application to answer the one error family."""

    @app.exception_handler(RipePressError)
    def answer(_request: Request, error: RipePressError) -> JSONResponse:
        body = {"code": error.code, "message": error.message}
        return JSONResponse(body, status_code=STATUS[type(error)])
