"""`/mcp`: the tools by the Model Context Protocol over HTTP, beside Django.

What must hold: nobody gets further than the door without a token that counts at this moment; a session serves the
token that began it and no other; what a tool asks of the service goes through the same door as everything else, with
the token of that very call (`within.py`).
"""

from __future__ import annotations

import hashlib
import json
import logging
import time
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Any, Final

import anyio
from django.conf import settings
from django.http.request import split_domain_port, validate_host
from mcp.server.auth.middleware.bearer_auth import AuthenticatedUser
from mcp.server.auth.provider import AccessToken
from mcp.server.streamable_http_manager import StreamableHTTPSessionManager
from starlette.datastructures import Headers
from starlette.responses import JSONResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from harquel.client import AsyncHarquel, Busy, Forbidden, HarquelError, TokenRefused
from harquel.contract import Me
from harquel.service.within import Within
from harquel.tools.reach import Context
from harquel.tools.server import build

PATH: Final = "/mcp"
ABOUT: Final = "/.well-known/oauth-protected-resource"
PATHS: Final = (PATH, ABOUT, ABOUT + PATH)
IDLE_S: Final = 900.0
"""A session without a request for so long is over."""
MOST_SESSIONS: Final = 200
MOST_EACH: Final = 20
"""Sessions of one token at once."""
_LARGEST: Final = 1_000_000
"""Bytes of a request."""
# It tells each session with its id, which is as good as a secret, and each client that sends nonsense.
logging.getLogger("mcp").setLevel(logging.ERROR)


class ToolProtocol:
    """The application at PATH and ABOUT. `application` is the whole of the service."""

    def __init__(self, application: ASGIApp) -> None:
        self._application = application
        self._tools = build(_OnBehalf(application))
        self._sessions = StreamableHTTPSessionManager(
            self._tools.server, session_idle_timeout=IDLE_S, max_request_body_size=_LARGEST,
            max_sessions=MOST_SESSIONS,
        )  # fmt: skip
        self._open = _Open()

    @asynccontextmanager
    async def running(self) -> AsyncIterator[None]:
        """As long as the service takes requests."""
        async with self._sessions.run(), anyio.create_task_group() as group:
            group.start_soon(self._tools.moves.run)
            yield
            group.cancel_scope.cancel()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not validate_host(split_domain_port(host)[0], settings.ALLOWED_HOSTS) or not _own(headers, scope):
            await _problem(403, "other-host", "The request names another host than this service.")(scope, receive, send)
            return
        if scope["path"] != PATH:
            await JSONResponse(_about(scope, host))(scope, receive, send)
            return
        secret = _bearer(headers)
        me = await self._who(scope, secret)
        if isinstance(me, Response):
            await me(scope, receive, send)
            return
        whose = hashlib.sha256(secret.encode()).hexdigest()
        # Sessions are bound to whom this names: to one token, whatever others are called.
        named = AccessToken(token=secret, client_id=whose, scopes=list(me.scopes), subject=str(me.person_id))
        session = headers.get("mcp-session-id")
        if session is None and not self._open.room(whose):
            said = f"This token has {MOST_EACH} sessions open. End one, or wait until it is over by itself."
            await _problem(429, "too-many-sessions", said)(scope, receive, send)
            return
        scope = {**scope, "user": AuthenticatedUser(named)}
        whole = _Whole(self._open.noting(whose, session, scope["method"], send))
        await self._sessions.handle_request(scope, receive, whole)
        await whole.end()

    async def _who(self, scope: Scope, secret: str) -> Me | Response:
        if not secret:
            return _unauthorised(scope, "A token is needed.")
        try:
            async with _client(self._application, scope, secret) as client:
                return await client.me()
        except TokenRefused as error:
            return _unauthorised(scope, str(error))
        except Forbidden as error:
            return _problem(403, "not-allowed", str(error))
        except Busy as error:
            return _problem(429, "busy", str(error), {"retry-after": f"{error.retry_after_s:.0f}"})
        except HarquelError as error:
            return _problem(503, "unavailable", str(error))


class _OnBehalf:
    """The service, for the token of the request that a call came with."""

    def __init__(self, application: ASGIApp) -> None:
        self._application = application

    def client(self, context: Context) -> AsyncHarquel:
        """One for each call."""
        assert context.request is not None
        scope = context.request.scope
        return _client(self._application, scope, _bearer(Headers(scope=scope)))

    def base(self, context: Context) -> str:
        """As whoever calls reaches it."""
        assert context.request is not None
        scope = context.request.scope
        return _base(scope, Headers(scope=scope).get("host", ""))


class _Open:
    """How many sessions each token has open, as far as can be seen from outside; touched in the event loop only."""

    def __init__(self) -> None:
        self._last: dict[str, tuple[str, float]] = {}

    def room(self, whose: str) -> bool:
        """Whether it may open another. What is idle is over."""
        now = time.monotonic()
        self._last = {s: (owner, at) for s, (owner, at) in self._last.items() if now - at < IDLE_S}
        return sum(owner == whose for owner, _ in self._last.values()) < MOST_EACH

    def noting(self, whose: str, session: str | None, method: str, send: Send) -> Send:
        """Notes what a response says of sessions."""
        if session in self._last:
            self._last[session] = (self._last[session][0], time.monotonic())

        async def outgoing(message: Message) -> None:
            if message["type"] == "http.response.start":
                fine = message["status"] < 400
                made = Headers(raw=message.get("headers", [])).get("mcp-session-id")
                if session is None and made is not None and fine:
                    self._last[made] = (whose, time.monotonic())
                elif session is not None and (message["status"] == 404 or (method == "DELETE" and fine)):
                    self._last.pop(session, None)
            await send(message)

        return outgoing


class _Whole:
    """A response that comes to its end: streams that the service ends as it stops are left open where they were."""

    def __init__(self, send: Send) -> None:
        self._send, self._open = send, False

    async def __call__(self, message: Message) -> None:
        """The next part of it."""
        self._open = message["type"] == "http.response.start" or message.get("more_body", False)
        await self._send(message)

    async def end(self) -> None:
        """There is no more."""
        if self._open:
            await self({"type": "http.response.body", "body": b""})


def _client(application: ASGIApp, scope: Scope, secret: str) -> AsyncHarquel:
    return AsyncHarquel("http://within", secret, transport=Within(application, scope), retries=0)


def _bearer(headers: Headers) -> str:
    kind, _, secret = headers.get("authorization", "").partition(" ")
    return secret.strip() if kind.lower() == "bearer" else ""


def _own(headers: Headers, scope: Scope) -> bool:
    """Whether a page that asks, where one does, is this service's own."""
    origin = headers.get("origin")
    return origin is None or origin == _base(scope, headers.get("host", ""))


def _base(scope: Scope, host: str) -> str:
    encrypted = settings.BEHIND_TLS or scope.get("scheme") == "https"
    return f"{'https' if encrypted else 'http'}://{host}"


def _about(scope: Scope, host: str) -> dict[str, Any]:
    """RFC 9728. Tokens are made by who runs the service, so that no authorization server is named."""
    return {
        "resource": f"{_base(scope, host)}{PATH}", "resource_name": "Harquel", "bearer_methods_supported": ["header"],
        "scopes_supported": ["ask", "release", "steward", "audit", "admin"],
    }  # fmt: skip


def _unauthorised(scope: Scope, said: str) -> Response:
    host = Headers(scope=scope).get("host", "")
    where = f'Bearer error="invalid_token", resource_metadata="{_base(scope, host)}{ABOUT}{PATH}"'
    return _problem(401, "token-refused", said, {"www-authenticate": where})


def _problem(status: int, kind: str, said: str, headers: dict[str, str] | None = None) -> Response:
    body = {"type": f"/problems/{kind}", "title": said, "status": status}
    return Response(json.dumps(body), status, headers, "application/problem+json")


def answers(path: str) -> bool:
    """Whether a path is the protocol's."""
    return path in PATHS
