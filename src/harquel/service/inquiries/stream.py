"""The events of an inquiry as they happen: server-sent events, resumable, closed at the end.

A native async view: under ASGI a synchronous generator would arrive all at once at the end.
"""

from __future__ import annotations

import asyncio
import json
from collections import Counter
from collections.abc import AsyncIterator
from typing import Any, Final

from asgiref.sync import sync_to_async
from django.http import HttpRequest, HttpResponseBase, StreamingHttpResponse
from rest_framework import exceptions
from rest_framework.request import Request as RestRequest

from harquel.service.access.authentication import TokenOrSession
from harquel.service.access.models import Token
from harquel.service.bus import END
from harquel.service.ledger.models import Entry
from harquel.service.ledger.shapes import entry_shape
from harquel.service.pages import whole_number
from harquel.service.problems import ProblemError, problem_for, respond
from harquel.service.runtime import runtime

from .actions.find import find_inquiry
from .models import StoredInquiry

KEEPALIVE_S: Final = 15.0
MOST_STREAMS: Final = 64
"""Of one token at once."""
_open: Counter[int] = Counter()
"""Streams under way by token; touched in the event loop only."""


async def events(request: HttpRequest, key: str) -> HttpResponseBase:
    """GET inquiries/{id}/events. `Last-Event-ID` (or ?after=) is the number of the last entry seen."""
    try:
        token = await sync_to_async(_admit)(request, key)
        after = request.headers.get("last-event-id") or request.GET.get("after") or "0"
        start = whole_number(after) or 0
        if _open[token] >= MOST_STREAMS:
            raise ProblemError(
                429, "too-many-streams", f"This token listens to {MOST_STREAMS} inquiries already.",
                "Close one of them first.", {"Retry-After": "5"},
            )  # fmt: skip
    except Exception as error:
        found = problem_for(error)
        if found is None:
            raise
        return respond(*found)
    response = StreamingHttpResponse(_stream(key, start, token), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


def _admit(request: HttpRequest, key: str) -> int:
    if request.method != "GET":
        raise exceptions.MethodNotAllowed(str(request.method))
    found = TokenOrSession().authenticate(RestRequest(request))
    if found is None:
        raise exceptions.NotAuthenticated("This needs a token.")
    token: Token = found[0]
    find_inquiry(key, token)
    return token.pk


async def _stream(key: str, after: int, token: int) -> AsyncIterator[bytes]:
    _open[token] += 1
    try:
        async for part in _events(key, after, token):
            yield part
    finally:
        _open[token] -= 1
        if not _open[token]:
            del _open[token]


async def _events(key: str, after: int, token: int) -> AsyncIterator[bytes]:
    with runtime().bus.listening(key) as listener:
        while True:
            # A token that was revoked hears no more, and what has ended has nothing more to say.
            if not await sync_to_async(_lives)(token):
                return
            over = await sync_to_async(_is_over)(key)
            for entry in await sync_to_async(_entries)(key, after):
                after = entry["seq"]
                yield _event(entry["kind"], entry, after)
                if entry["kind"] == "ended" or (entry["kind"] == "held" and await sync_to_async(_waits)(key)):
                    return
            if over:
                return
            while True:
                try:
                    piece = await asyncio.wait_for(listener.get(), KEEPALIVE_S)
                except TimeoutError:
                    yield b": still here\n\n"
                    break
                if piece is None or piece == END:
                    break
                yield _event("piece", {"text": piece}, None)


def _lives(token: int) -> bool:
    return Token.living().filter(pk=token).exists()


def _is_over(key: str) -> bool:
    return StoredInquiry.objects.filter(key=key, state="ended").exists()


def _waits(key: str) -> bool:
    return StoredInquiry.objects.filter(key=key, state="held").exists()


def _event(kind: str, data: dict[str, Any], number: int | None) -> bytes:
    head = f"id: {number}\n" if number is not None else ""
    return f"{head}event: {kind}\ndata: {json.dumps(data, ensure_ascii=False)}\n\n".encode()


def _entries(key: str, after: int) -> list[dict[str, Any]]:
    found = Entry.objects.filter(inquiry=key, seq__gt=after).order_by("seq").prefetch_related("texts")
    return [entry_shape(e).model_dump(mode="json") for e in found]
