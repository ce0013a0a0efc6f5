"""The ASGI application: API and health go to Django, streams and long waits beside it, other paths to the console."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextlib import AbstractAsyncContextManager
from pathlib import Path

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, JSONResponse, PlainTextResponse, Response
from starlette.routing import BaseRoute, Mount, Route
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

CONSOLE = Path(__file__).resolve().parent / "console"
_ASKING = "/api/v1/inquiries"
_STREAM = re.compile(_ASKING + r"/([^/]+)/events")
_DJANGO = ("/api/", "/healthz", "/readyz", "/metrics", "/shared/")
_HEADERS = {
    "content-security-policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'",
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "same-origin",
    "cache-control": "no-cache",
}


_NOTHING = JSONResponse(
    {"type": "/problems/not-found", "title": "There is nothing here.", "status": 404, "hint": "Check the path."},
    404, media_type="application/problem+json",
)  # fmt: skip


def build_application() -> ASGIApp:
    """Call after django.setup()."""
    from harquel.service.api import Api
    from harquel.service.inquiries.stream import events
    from harquel.service.inquiries.waiting import ask_and_wait
    from harquel.service.tool_protocol import ToolProtocol, answers

    api = Api()

    async def application(scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and ("\x00" in scope["path"] or b"%00" in scope["query_string"]):
            # No name, number or text of ours holds it, and neither do the records.
            await _NOTHING(scope, receive, send)
        elif scope["type"] == "http" and (stream := _STREAM.fullmatch(scope["path"])):
            await events(scope, receive, send, stream[1])
        elif scope["type"] == "http" and scope["path"] == _ASKING and scope["method"] == "POST":
            await ask_and_wait(api, scope, receive, _unkept(send))
        elif scope["type"] == "http" and scope["path"].startswith(_DJANGO):
            await api(scope, receive, _unkept(send))
        elif scope["type"] == "http" and answers(scope["path"]):
            await tools(scope, receive, _unkept(send))
        else:
            await console(scope, receive, send)

    tools = ToolProtocol(application)
    console = _console(tools.running)
    return application


def _unkept(send: Send) -> Send:
    """Nothing that the API says is kept by a browser or a proxy on the way."""

    async def outgoing(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = message.setdefault("headers", [])
            if not any(name.lower() == b"cache-control" for name, _ in headers):
                headers.append((b"cache-control", b"no-store"))
        await send(message)

    return outgoing


def _console(running: Callable[[], AbstractAsyncContextManager[None]]) -> Starlette:
    """The rest; what is told of the beginning and the end of the whole application is told to it."""
    from django.conf import settings

    from harquel.service.runtime import runtime

    headers = {**_HEADERS, "strict-transport-security": "max-age=31536000"} if settings.BEHIND_TLS else _HEADERS

    async def page(_: Request) -> Response:
        index = CONSOLE / "index.html"
        if not index.is_file():
            return PlainTextResponse("The console is not built. Run: make console\n", 503)
        return FileResponse(index, headers=headers)

    def robots(_: Request) -> Response:
        # Nothing here is for those who look through the web.
        return PlainTextResponse("User-agent: *\nDisallow: /\n", headers=headers)

    def embed(_: Request) -> Response:
        # Read each time: the configuration can be read again.
        embedding, file = runtime().config.embedding, CONSOLE / "embed.html"
        if embedding is None or not file.is_file():
            return JSONResponse(
                {"type": "/problems/no-embedding", "title": "This service shows no page in frames.", "status": 404,
                 "hint": "Whoever runs it names the pages that may, under [embedding]."},
                404, media_type="application/problem+json", headers=headers,
            )  # fmt: skip
        framed = {k: v for k, v in headers.items() if k != "x-frame-options"}
        policy = framed["content-security-policy"].replace(
            "frame-ancestors 'none'", f"frame-ancestors {' '.join(embedding.origins)}"
        )
        return FileResponse(
            file, headers={**framed, "content-security-policy": policy, "referrer-policy": "no-referrer"}
        )

    routes: list[BaseRoute] = [Route("/embed", embed), Route("/robots.txt", robots), Route("/{path:path}", page)]
    if (CONSOLE / "assets").is_dir():
        routes.insert(0, Mount("/assets", StaticFiles(directory=CONSOLE / "assets")))
    return Starlette(routes=routes, lifespan=lambda _: running())
