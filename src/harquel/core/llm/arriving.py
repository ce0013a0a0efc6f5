"""What comes from a model's server, counted and bounded while it arrives: bytes, lines, and time between looks.

A server that sends for ever, sends one line without end, or packs a little that unfolds into a lot is cut off here.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any, Final

import httpx

MOST_BYTES: Final = 64_000_000
"""Of a whole streamed reply: a piece of a few characters comes in a frame of a few hundred bytes."""
MOST_WHOLE: Final = 4_000_000
"""Of a reply that is sent whole, and of one line."""


class TooMuch(Exception):
    """More came than a reply may have; `args[0]` says what."""


class NotUnderstood(Exception):
    """What came is not what the protocol says."""


def pieces(response: httpx.Response, look: Callable[[], None], most: int) -> Iterator[bytes]:
    """The body as it arrives; `look` is called for each piece and raises when nobody waits any more."""
    coding = response.headers.get("content-encoding", "identity").strip().lower()
    if coding not in ("", "identity"):
        # Unpacking could make gigabytes of what was counted as little; we did not ask for it.
        raise NotUnderstood("its reply is packed")
    size = 0
    for piece in response.iter_raw():
        look()
        size += len(piece)
        if size > most:
            raise TooMuch(f"more than {most:,} bytes")
        yield piece


def whole(response: httpx.Response, look: Callable[[], None], most: int = MOST_WHOLE) -> bytes:
    """A body that is not streamed."""
    return b"".join(pieces(response, look, most))


def lines(response: httpx.Response, look: Callable[[], None]) -> Iterator[bytes]:
    """The lines of a body, without their ends. A line is gone over once, however small the pieces are."""
    waiting: list[bytes] = []
    size = 0
    for piece in pieces(response, look, MOST_BYTES):
        first, *rest = piece.split(b"\n")
        waiting.append(first)
        size += len(first)
        if size > MOST_WHOLE:
            raise TooMuch(f"a line of more than {MOST_WHOLE:,} bytes")
        for part in rest:
            yield b"".join(waiting).rstrip(b"\r")
            waiting, size = [part], len(part)
    yield b"".join(waiting)


def objects(response: httpx.Response, look: Callable[[], None]) -> Iterator[dict[str, Any]]:
    """The JSON objects of a reply, streamed as server-sent events or sent whole."""
    if "event-stream" not in response.headers.get("content-type", ""):
        yield _object(whole(response, look))
        return
    for line in lines(response, look):
        if line.startswith(b"data:") and (said := line[5:].strip()) and said != b"[DONE]":
            yield _object(said)


def _object(text: bytes) -> dict[str, Any]:
    try:
        value = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise NotUnderstood("its reply is not valid JSON") from error
    if not isinstance(value, dict):
        raise NotUnderstood("its reply is no JSON object")
    return value
