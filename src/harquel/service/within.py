"""The client's way to the service it runs in: requests go to the application itself, whose replies come as they are
made, without a connection and with nobody's rights but those of the token that they bear. Where the application breaks,
whoever asked is told so as over a connection, and the log has why.
"""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Mapping
from contextlib import suppress
from typing import Any, Final

import httpx
import structlog
from starlette.types import ASGIApp, Message

from harquel.service.errors import MEDIA_TYPE, ProblemError, spoken

log = structlog.get_logger("harquel")

_AHEAD: Final = 16
"""Pieces of a reply that wait to be read; whoever makes them waits, too."""


class Within(httpx.AsyncBaseTransport):
    """`like` is the request on whose behalf it goes: from whom that came, and under which name of ours."""

    def __init__(self, application: ASGIApp, like: Mapping[str, Any]) -> None:
        self._application, self._like = application, like

    async def handle_async_request(self, request: httpx.Request) -> httpx.Response:
        """One request. Raises httpx.ReadError where the application breaks in the middle of its reply."""
        exchange = _Exchange(await request.aread())
        kept = [(n, v) for n, v in self._like["headers"] if n in (b"host", b"x-forwarded-proto")]
        own = [(n.lower(), v) for n, v in request.headers.raw if n.lower() not in (b"host", b"x-forwarded-proto")]
        scope = {
            "type": "http", "asgi": self._like.get("asgi", {"version": "3.0"}), "http_version": "1.1",
            "method": request.method, "headers": kept + own, "scheme": self._like.get("scheme", "http"),
            "path": request.url.path, "raw_path": request.url.raw_path.partition(b"?")[0],
            "query_string": request.url.query, "root_path": "", "client": self._like.get("client"),
            "server": self._like.get("server"),
        }  # fmt: skip
        exchange.start(self._application, scope)
        try:
            first = await exchange.next()
        except BaseException:
            await exchange.aclose()
            raise
        if first is None:
            await exchange.aclose()
            told = ProblemError(500, "internal", "problem-internal").told(spoken(request.headers))
            return httpx.Response(told.status, json=told.model_dump(), headers={"content-type": MEDIA_TYPE})
        return httpx.Response(first["status"], headers=first.get("headers", []), stream=exchange)


class _Exchange(httpx.AsyncByteStream):
    """One request under way."""

    def __init__(self, body: bytes) -> None:
        self._body: bytes | None = body
        self._said: asyncio.Queue[Message | None] = asyncio.Queue(_AHEAD)
        self._left = asyncio.Event()
        self._task: asyncio.Task[None] | None = None

    def start(self, application: ASGIApp, scope: dict[str, Any]) -> None:
        """Has the application answer."""

        async def answer() -> None:
            try:
                await application(scope, self._receive, self._said.put)
            except Exception:
                log.exception("a request from within broke", path=scope["path"])
            finally:
                if not self._left.is_set():
                    await self._said.put(None)

        self._task = asyncio.create_task(answer())

    async def next(self) -> Message | None:
        """What it says next; None: nothing more."""
        return await self._said.get()

    async def _receive(self) -> Message:
        if self._body is not None:
            body, self._body = self._body, None
            return {"type": "http.request", "body": body, "more_body": False}
        await self._left.wait()
        return {"type": "http.disconnect"}

    async def __aiter__(self) -> AsyncIterator[bytes]:
        while (message := await self.next()) is not None:
            if message.get("body"):
                yield message["body"]
            if not message.get("more_body", False):
                return
        raise httpx.ReadError("the service broke off in the middle of its reply")

    async def aclose(self) -> None:
        """Whoever asked hears no more."""
        self._left.set()
        if self._task is not None:
            self._task.cancel()
            with suppress(asyncio.CancelledError, Exception):
                await self._task
