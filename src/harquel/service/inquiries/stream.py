"""The events of an inquiry as they happen: server-sent events, resumable, closed at the end.

Served beside Django, which would keep a thread and a connection to the records for each stream that is open.
"""

from __future__ import annotations

import asyncio
import io
import json
from collections import Counter
from collections.abc import AsyncGenerator, Mapping
from dataclasses import dataclass
from typing import Any, Final

from asgiref.typing import HTTPScope
from django.conf import settings
from django.contrib.sessions.middleware import SessionMiddleware
from django.core.handlers.asgi import ASGIRequest
from django.http import HttpResponse
from rest_framework import exceptions
from rest_framework.request import Request
from starlette.requests import Request as Incoming
from starlette.responses import Response, StreamingResponse
from starlette.types import Receive, Scope, Send

from harquel.service.access.authentication import TokenOrSession
from harquel.service.access.caller import Caller
from harquel.service.access.models import Token
from harquel.service.bus import ANEW, END
from harquel.service.errors import MEDIA_TYPE, ProblemError, spoken
from harquel.service.ledger.models import Entry
from harquel.service.ledger.shapes import entry_shape
from harquel.service.operations import perform
from harquel.service.pages import whole_number
from harquel.service.problems import as_problem
from harquel.service.records.reading import read
from harquel.service.runtime import runtime

from .models import StoredInquiry
from .operations.listen import listen
from .unkept import unkept

KEEPALIVE_S: Final = 15.0
MOST_STREAMS: Final = 64
"""Of one token at once."""
_open: Counter[int] = Counter()
"""Streams under way by token; touched in the event loop only."""


async def events(scope: Scope, receive: Receive, send: Send, key: str) -> None:
    """GET inquiries/{id}/events. `Last-Event-ID` (or ?after=) is the number of the last entry seen."""
    incoming = Incoming(scope)
    try:
        if incoming.method != "GET":
            raise exceptions.MethodNotAllowed(incoming.method)
        token = await read(_admit, scope, key)
        if _open[token] >= MOST_STREAMS:
            raise ProblemError(
                429, "too-many-streams", "problem-too-many-streams", {"Retry-After": "5"}, most=MOST_STREAMS
            )
    except Exception as error:
        await _problem(error, incoming.headers)(scope, receive, send)
        return
    after = whole_number(incoming.headers.get("last-event-id") or incoming.query_params.get("after") or "0") or 0
    found = _events(key, after, token)
    headers = {
        "content-type": "text/event-stream", "cache-control": "no-store", "x-accel-buffering": "no",
        "x-content-type-options": "nosniff",
    }  # fmt: skip
    _open[token] += 1
    try:
        await StreamingResponse(found, headers=headers)(scope, receive, send)
    finally:
        _open[token] -= 1
        if not _open[token]:
            del _open[token]
        await found.aclose()


def _problem(error: Exception, incoming: Mapping[str, str]) -> Response:
    found = as_problem(error)
    if found is None:
        raise error
    return Response(found.told(spoken(incoming)).model_dump_json(), found.status, found.headers, MEDIA_TYPE)


def _admit(scope: HTTPScope, key: str) -> int:
    """The token that may listen. What Django does for every other request is done here for this one."""
    request = ASGIRequest(scope, io.BytesIO())
    request.get_host()
    if settings.SECURE_SSL_REDIRECT and not request.is_secure():
        raise ProblemError(403, "not-encrypted", "problem-not-encrypted")
    SessionMiddleware(lambda _: HttpResponse()).process_request(request)
    found = TokenOrSession().authenticate(Request(request))
    if found is None:
        raise exceptions.NotAuthenticated
    perform(listen, Caller.of(found[0]), dict, {"key": key})
    return found[0].pk


@dataclass(frozen=True)
class _Look:
    """What the records say that a stream has not told yet."""

    entries: list[dict[str, Any]]
    over: bool
    held: bool


def _look(key: str, after: int, token: int) -> _Look | None:
    """None where the token hears no more, because it was revoked or has come to its end."""
    if not Token.living().filter(pk=token).exists():
        return None
    # The state first: what is over has said everything before it was.
    state = StoredInquiry.objects.values_list("state", flat=True).get(key=key)
    found = Entry.objects.filter(inquiry=key, seq__gt=after).order_by("seq").prefetch_related("texts")
    entries = [entry_shape(e).model_dump(mode="json") for e in found]
    return _Look(entries, state == "ended" or unkept(key) is not None, state == "held")


async def _events(key: str, after: int, token: int) -> AsyncGenerator[bytes, None]:
    with runtime().bus.listening(key) as listener:
        while True:
            look = await read(_look, key, after, token)
            if look is None:
                return
            for entry in look.entries:
                after = entry["seq"]
                yield _event(entry["kind"], entry, after)
                if entry["kind"] == "ended" or (entry["kind"] == "held" and look.held):
                    return
            if look.over:
                return
            while True:
                try:
                    piece = await asyncio.wait_for(listener.get(), KEEPALIVE_S)
                except TimeoutError:
                    yield b": still here\n\n"
                    break
                if piece is None or piece == END:
                    break
                anew = piece == ANEW
                yield _event("piece", {"text": "" if anew else piece, "anew": anew}, None)


def _event(kind: str, data: dict[str, Any], number: int | None) -> bytes:
    head = f"id: {number}\n" if number is not None else ""
    return f"{head}event: {kind}\ndata: {json.dumps(data, ensure_ascii=False)}\n\n".encode()
