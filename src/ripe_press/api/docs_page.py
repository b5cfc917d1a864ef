"""The interactive reference of the API at ``/api/docs``, on this machine only and without the network."""

import json
from pathlib import Path

import fastapi_offline
from fastapi import APIRouter, FastAPI
from fastapi.responses import HTMLResponse, Response
from fastapi.staticfiles import StaticFiles

SHIPPED = Path(fastapi_offline.__file__).parent / "static"
"""Scripts and styles of the reference, from a package: nothing is loaded from elsewhere."""
_PAGE = """<!doctype html>
<html lang="en">
<head><meta charset="utf-8"><title>Ripe Press API</title>
<link rel="icon" href="/icon.svg"><link rel="stylesheet" href="/api/docs/shipped/swagger-ui.css"></head>
<body><div id="reference"></div>
<script src="/api/docs/shipped/swagger-ui-bundle.js"></script><script src="/api/docs/start.js"></script></body>
</html>
"""
# A file of its own: scripts within a page are not run here.
_START = 'SwaggerUIBundle({url: "/api/openapi.json", dom_id: "#reference", deepLinking: true});'


def serve_reference(app: FastAPI) -> None:
    """Adds the reference and the description that it shows."""
    router = APIRouter(include_in_schema=False)

    @router.get("/api/openapi.json")
    def description() -> Response:
        return Response(json.dumps(app.openapi()), media_type="application/json")

    @router.get("/api/docs")
    def page() -> HTMLResponse:
        return HTMLResponse(_PAGE)

    @router.get("/api/docs/start.js")
    def start() -> Response:
        return Response(_START, media_type="text/javascript")

    app.mount("/api/docs/shipped", StaticFiles(directory=SHIPPED))
    app.include_router(router)
