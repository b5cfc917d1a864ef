"""The application: wiring only."""

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress
from pathlib import Path

from fastapi import FastAPI
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from starlette.exceptions import HTTPException

from ripe_press.api import event_routes
from ripe_press.api.bench import routes as bench_routes, tag_routes
from ripe_press.api.briefs import routes as brief_routes, set_routes
from ripe_press.api.docs_page import serve_reference
from ripe_press.api.error_map import answer_errors
from ripe_press.api.guard import LOOPBACK, Guard, checked_token
from ripe_press.api.handoff import routes as handoff_routes, sheet_routes
from ripe_press.api.listening import blind_routes, ladder_routes, routes as desk_routes
from ripe_press.api.live import routes as pass_routes
from ripe_press.api.orders import routes as order_routes
from ripe_press.api.pressing import folder_routes, record_routes, routes as press_routes
from ripe_press.api.sending import routes as send_routes
from ripe_press.api.shelf import routes as shelf_routes, version_routes
from ripe_press.api.stems import routes as stem_routes
from ripe_press.api.watch import Watch
from ripe_press.core.errors import Interrupted
from ripe_press.studio.studio import Studio

STATIC = Path(__file__).parent / "static"


def make_app(studio: Studio, hosts: tuple[str, ...] = (), token: str = "") -> FastAPI:
    """The application over a studio, which it starts and closes; asked for under ``hosts`` beside this machine's own.

    With a ``token`` only who shows it is answered; any other host demands one. Raises: BadInput ``serve.token``.
    """
    if token or set(hosts) - set(LOOPBACK):
        checked_token(token)

    @asynccontextmanager
    async def life(_app: FastAPI) -> AsyncIterator[None]:
        # After a request to end during the start, nothing is left to start.
        with suppress(Interrupted):
            studio.start()
        yield
        studio.close()

    app = FastAPI(title="Ripe Press", lifespan=life, docs_url=None, redoc_url=None, openapi_url=None)
    app.state.studio = studio
    app.state.streams, app.state.most_streams = 0, 1000
    answer_errors(app)
    app.add_middleware(Watch)
    app.add_middleware(Guard, hosts=(*LOOPBACK, *hosts), token=token)
    app.include_router(shelf_routes.router)
    app.include_router(version_routes.router)
    app.include_router(event_routes.router)
    app.include_router(bench_routes.router)
    app.include_router(bench_routes.defaults_router)
    app.include_router(stem_routes.router)
    app.include_router(pass_routes.router)
    app.include_router(press_routes.router)
    app.include_router(record_routes.router)
    app.include_router(folder_routes.router)
    app.include_router(sheet_routes.router)
    app.include_router(send_routes.router)
    app.include_router(handoff_routes.router)
    app.include_router(ladder_routes.router)
    app.include_router(order_routes.router)
    app.include_router(desk_routes.router)
    app.include_router(blind_routes.router)
    app.include_router(brief_routes.router)
    app.include_router(set_routes.router)
    app.include_router(tag_routes.router)
    if not token:
        serve_reference(app)
    _serve_page(app)
    return app


def _serve_page(app: FastAPI) -> None:
    """The built page; every address that is not the interface's belongs to the page's own router."""
    if (STATIC / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=STATIC / "assets"))

    @app.get("/{address:path}", include_in_schema=False)
    def page(address: str) -> FileResponse:
        if address.startswith("api/"):
            raise HTTPException(404)
        icon = STATIC / "icon.svg"
        if address == "icon.svg" and icon.is_file():
            return FileResponse(icon)
        return FileResponse(STATIC / "index.html", headers={"Cache-Control": "no-cache"})
