"""What goes wrong with servers of language models, on purpose: the name of the model says what.

trouble-KIND          each call
trouble-KIND-once     the first call of a conversation; from then on it is careful
trouble-reads-N       turns down what is longer than N tokens, otherwise careful
"""

from __future__ import annotations

import asyncio
import json
import re
from collections.abc import AsyncIterator, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Final

from starlette.responses import HTMLResponse, JSONResponse, Response, StreamingResponse

from .spoken import PROTOCOLS, Asked, End, Spoken, Usage

STATUSES: Final[dict[str, tuple[int, str, str, dict[str, str]]]] = {
    "too-many": (429, "rate_limit_error", "too many requests", {}),
    "too-many-wait": (429, "rate_limit_error", "too many requests", {"retry-after": "0.2"}),
    "broken": (500, "api_error", "something broke", {}),
    "overloaded": (529, "overloaded_error", "overloaded", {}),
    "wrong-key": (401, "authentication_error", "the key is not known", {}),
    "used-up": (429, "insufficient_quota", "You exceeded your current quota.", {}),
    "too-long": (400, "context_length_exceeded", "the prompt is too long: maximum context length is 10 tokens", {}),
}  # fmt: skip
"""Kinds that are a status: it, its type, its words, its headers."""
ENDS: Final[dict[str, End]] = {"tool-call": "tool", "refusal": "refused", "filtered": "filtered", "length": "length"}
STREAMS: Final = ("cut-off", "slow-start", "slow-drip", "html", "foreign", "bad-text", "large", "endless")
KINDS: Final = (*STATUSES, *ENDS, *STREAMS)
SLOW_S: Final = 1.5
_DRIP_S: Final = 0.15
_LARGE: Final = 2_000_000


@dataclass(frozen=True)
class Trouble:
    """What goes wrong; `reads` is how many tokens it reads at most."""

    kind: str = ""
    once: bool = False
    reads: int = 0


def trouble_of(model: str) -> Trouble | None:
    """The trouble that a model's name asks for."""
    if found := re.fullmatch(r"trouble-reads-(\d{1,6})", model):
        return Trouble(reads=int(found[1]))
    found = re.fullmatch(r"trouble-([a-z-]+?)(-once)?", model)
    return Trouble(found[1], bool(found[2])) if found is not None and found[1] in KINDS else None


def refused(protocol: Spoken, kind: str) -> Response:
    """A status that is not 200."""
    status, name, words, headers = STATUSES[kind]
    return JSONResponse(protocol.error(status, words, name), status, headers)


def spoilt(protocol: Spoken, asked: Asked, text: str, usage: Usage, kind: str) -> Response:
    """A reply in which something is wrong."""
    if kind == "html":
        return HTMLResponse("<!doctype html><title>Gateway</title><p>Please sign in to the network.</p>")
    if kind == "foreign":
        others = [p for p in PROTOCOLS.values() if p is not protocol]
        return _sent(others[0], asked, text, "stop", usage)
    if kind == "large":
        return _sent(protocol, asked, "x" * _LARGE, "stop", usage)
    if kind in ENDS:
        said = {"tool-call": "", "refusal": "", "filtered": ""}.get(kind, text[: len(text) // 2])
        return _sent(protocol, asked, said, ENDS[kind], usage)
    return StreamingResponse(
        _drip(protocol, asked, text, usage, kind),
        media_type="text/event-stream" if asked.stream else "application/json",
    )  # fmt: skip


def _sent(protocol: Spoken, asked: Asked, text: str, end: End, usage: Usage) -> Response:
    if not asked.stream:
        return JSONResponse(protocol.whole(asked.model, text, end, usage, asked.shaped))
    pieces = [text[at : at + 4_000] for at in range(0, len(text), 4_000)]
    frames = protocol.frames(asked.model, pieces, end, usage, asked.shaped)
    return Response("".join(lines(frames)), media_type="text/event-stream")


async def _drip(protocol: Spoken, asked: Asked, text: str, usage: Usage, kind: str) -> AsyncIterator[bytes]:
    if kind == "slow-start":
        await asyncio.sleep(SLOW_S)
    pieces = [text[at : at + 24] for at in range(0, len(text), 24)]
    if kind == "endless":
        while True:
            for line in list(lines(protocol.frames(asked.model, ["so " * 40] * 8, "stop", usage, False)))[:6]:
                yield line.encode() if asked.stream else b" " * 4_000
            await asyncio.sleep(0)
    whole = json.dumps(protocol.whole(asked.model, text, "stop", usage, asked.shaped))
    told: Sequence[str] = (
        list(lines(protocol.frames(asked.model, pieces, "stop", usage, asked.shaped)))
        if asked.stream else [whole[at : at + 200] for at in range(0, len(whole), 200)]
    )  # fmt: skip
    if kind == "cut-off":
        told = told[: max(1, len(told) // 2)]
    for at, line in enumerate(told):
        if kind == "slow-drip":
            await asyncio.sleep(_DRIP_S)
        yield (
            line.encode()
            if kind != "bad-text" or at != len(told) // 2
            else line.encode().replace(b'"', b'"\xff\xfe', 1)
        )


def lines(frames: Iterator[tuple[str, dict[str, Any]]]) -> Iterator[str]:
    """Server-sent events."""
    for kind, value in frames:
        head = f"event: {kind}\n" if kind else ""
        yield f"{head}data: {json.dumps(value)}\n\n"
