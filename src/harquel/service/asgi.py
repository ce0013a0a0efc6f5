"""The ASGI application: API and health go to Django, every other path is the console."""

from __future__ import annotations

from pathlib import Path

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, PlainTextResponse, Response
from starlette.routing import BaseRoute, Mount, Route
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Receive, Scope, Send

CONSOLE = Path(__file__).resolve().parent / "console"
_DJANGO = ("/api/", "/healthz", "/readyz", "/metrics")
_HEADERS = {
    "content-security-policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "same-origin",
    "cache-control": "no-cache",
}


def build_application() -> ASGIApp:
    """Call after django.setup()."""
    from django.core.asgi import get_asgi_application

    api = get_asgi_application()
    console = _console()

    async def application(scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["path"].startswith(_DJANGO):
            await api(scope, receive, send)
        else:
            await console(scope, receive, send)

    return application


def _console() -> Starlette:
    async def page(_: Request) -> Response:
        index = CONSOLE / "index.html"
        if not index.is_file():
            return PlainTextResponse("The console is not built. Run: make console\n", 503)
        return FileResponse(index, headers=_HEADERS)

    routes: list[BaseRoute] = [Route("/{path:path}", page)]
    if (CONSOLE / "assets").is_dir():
        routes.insert(0, Mount("/assets", StaticFiles(directory=CONSOLE / "assets")))
    return Starlette(routes=routes)
