"""The long wait of an asker, in the event loop instead of a thread: Django has answered long before it is over."""

from __future__ import annotations

import asyncio
import json
import time
from typing import Any, Final

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from harquel.service.records.reading import read
from harquel.service.runtime import runtime

from .models import StoredInquiry
from .shapes import inquiry_shape

WAIT_HEADER: Final = "harquel-wait"
"""How the view says that somebody waits: the inquiry and the seconds. It does not leave the house."""


async def ask_and_wait(api: ASGIApp, scope: Scope, receive: Receive, send: Send) -> None:
    """Lets Django answer, and puts the ended inquiry in the place of the one that is under way."""
    kept: list[Message] = []

    async def keep(message: Message) -> None:
        kept.append(message)

    await api(scope, receive, keep)
    if not kept:
        return  # whoever asked went away in the middle of the request
    start = kept[0]
    name = WAIT_HEADER.encode()
    said = next((value for header, value in start["headers"] if header.lower() == name), None)
    if said is not None:
        start["headers"] = [(h, v) for h, v in start["headers"] if h.lower() not in (name, b"content-length")]
        key, _, seconds = said.decode().partition(" ")
        ended = await _wait_for_end(key, float(seconds))
        if ended is not None:
            kept[1:] = [{"type": "http.response.body", "body": json.dumps(ended).encode()}]
        length = sum(len(m.get("body", b"")) for m in kept[1:])
        start["headers"].append((b"content-length", str(length).encode()))
    for message in kept:
        await send(message)


async def _wait_for_end(key: str, wait_s: float) -> dict[str, Any] | None:
    """The inquiry when it has ended, or as far as it has come by then; None for one that is not there."""
    live, deadline = runtime(), time.monotonic() + wait_s
    with live.bus.listening(key, end_only=True) as listener:
        while live.inquiries.is_open(key):
            try:
                await asyncio.wait_for(listener.get(), max(0.0, deadline - time.monotonic()))
            except TimeoutError:
                break
        return await read(_found, key)


def _found(key: str) -> dict[str, Any] | None:
    stored = StoredInquiry.objects.select_related("person", "result").filter(key=key).first()
    return inquiry_shape(stored).model_dump(mode="json") if stored is not None else None
