"""The simulated model's HTTP server: the chat-completions protocol, streamed and whole."""

from __future__ import annotations

import asyncio
import json
import time
from collections import Counter
from collections.abc import AsyncIterator
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response, StreamingResponse
from starlette.routing import Route

from harquel.standin.model import reply_to
from harquel.standin.model.tempers import chance, temper_of

SLOW_S = 2.0
"""What a slow reply of a flaky server takes longer."""
PIECE = 24
"""Characters a streamed piece."""


def build(pace_s: float = 0.0, key: str | None = None) -> Starlette:
    """The application. `pace_s` is how long a whole reply takes; `key` is asked for when given."""
    stumbled: Counter[float] = Counter()

    async def completions(request: Request) -> Response:
        if key is not None and request.headers.get("authorization") != f"Bearer {key}":
            return _error(401, "the key is not known")
        try:
            body = await request.json()
            messages, model = body["messages"], body["model"]
            messages = [{"role": str(m["role"]), "content": str(m["content"])} for m in messages]
        except (json.JSONDecodeError, KeyError, TypeError, UnicodeDecodeError):
            return _error(400, "the body must be JSON with model and messages")
        temper = temper_of(model)
        if temper is None:
            return _error(404, f"there is no model {model!r}")
        cut, slow = False, False
        if temper.kind == "flaky":
            draw = chance(model, messages, "stumble")
            stumbled[draw] += 1
            if stumbled[draw] == 1:
                if draw < 0.25:
                    return _error(429, "too many requests", {"retry-after": "0.2"})
                if draw < 0.5:
                    return _error(500, "something broke")
                cut, slow = draw < 0.75, draw >= 0.75
        text = (await asyncio.to_thread(reply_to, messages, model, temper)).text
        spoken = max(1, len(text) // PIECE)
        wait = (pace_s + (SLOW_S if slow else 0.0)) / spoken
        usage = {"prompt_tokens": sum(len(m["content"]) for m in messages) // 4, "completion_tokens": len(text) // 4}
        if body.get("stream"):
            stream = _stream(text, model, usage, wait, cut)
            return StreamingResponse(stream, media_type="text/event-stream", headers={"cache-control": "no-store"})
        await asyncio.sleep(wait * spoken)
        whole = _envelope(
            model, {"index": 0, "message": {"role": "assistant", "content": text}, "finish_reason": "stop"}
        )
        data = json.dumps({**whole, "object": "chat.completion", "usage": usage})
        return Response(data[: len(data) // 2] if cut else data, media_type="application/json")

    async def models(_: Request) -> Response:
        names = ["careful", "careless-0.3", "stubborn", "flaky"]
        return JSONResponse({"object": "list", "data": [{"id": n, "object": "model"} for n in names]})

    async def healthy(_: Request) -> Response:
        return JSONResponse({"status": "ok"})

    return Starlette(
        routes=[
            Route("/v1/chat/completions", completions, methods=["POST"]),
            Route("/v1/models", models),
            Route("/healthz", healthy),
        ]
    )


def _error(status: int, message: str, headers: dict[str, str] | None = None) -> Response:
    return JSONResponse({"error": {"message": message, "type": "error"}}, status, headers)


def _envelope(model: str, choice: dict[str, Any] | None) -> dict[str, Any]:
    return {
        "id": "chatcmpl-standin",
        "object": "chat.completion.chunk",
        "created": int(time.time()),
        "model": model,
        "choices": [choice] if choice else [],
    }


async def _stream(text: str, model: str, usage: dict[str, int], wait: float, cut: bool) -> AsyncIterator[str]:
    def line(value: dict[str, Any]) -> str:
        return f"data: {json.dumps(value)}\n\n"

    shown = text[: len(text) // 2] if cut else text
    for start in range(0, len(shown), PIECE):
        piece = {"role": "assistant", "content": shown[start : start + PIECE]}
        yield line(_envelope(model, {"index": 0, "delta": piece, "finish_reason": None}))
        if wait:
            await asyncio.sleep(wait)
    if cut:
        yield 'data: {"id": "chatcmpl-st'
        return
    yield line(_envelope(model, {"index": 0, "delta": {}, "finish_reason": "stop"}))
    yield line({**_envelope(model, None), "usage": usage})
    yield "data: [DONE]\n\n"
