"""The simulated model's HTTP server: three protocols, streamed and whole, and what goes wrong in each of them."""

from __future__ import annotations

import asyncio
import json
from collections import Counter
from collections.abc import AsyncIterator
from typing import Final

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response, StreamingResponse
from starlette.routing import Route

from harquel.standin.model import reply_to
from harquel.standin.model.tempers import Temper, chance, temper_of
from harquel.standin.spoken import PROTOCOLS, Asked, Spoken, Usage
from harquel.standin.troubles import STATUSES, lines, refused, spoilt, trouble_of

SLOW_S: Final = 2.0
"""What a slow reply of a flaky server takes longer."""
PIECE: Final = 24
"""Characters a streamed piece."""
NAMES: Final = ("careful", "careless-0.3", "stubborn", "flaky")
_MOST_NOTED: Final = 100_000


def build(pace_s: float = 0.0, key: str | None = None) -> Starlette:
    """The application. `pace_s` is how long a whole reply takes; `key` is asked for when given."""
    server = _Server(pace_s, key)
    return Starlette(
        routes=[
            Route("/v1/chat/completions", server.chat_completions, methods=["POST"]),
            Route("/v1/messages", server.messages, methods=["POST"]),
            Route("/v1/models/{model}:{action}", server.generate_content, methods=["POST"]),
            Route("/v1/models", server.models),
            Route("/healthz", server.healthy),
        ]
    )


class _Server:
    def __init__(self, pace_s: float, key: str | None) -> None:
        self._pace_s, self._key = pace_s, key
        self._seen: Counter[float] = Counter()

    async def chat_completions(self, request: Request) -> Response:
        return await self._reply(request, "chat-completions", "", False, self._bearer(request))

    async def messages(self, request: Request) -> Response:
        if "anthropic-version" not in request.headers:
            return JSONResponse(PROTOCOLS["messages"].error(400, "a version header is missing", "invalid"), 400)
        return await self._reply(request, "messages", "", False, request.headers.get("x-api-key", ""))

    async def generate_content(self, request: Request) -> Response:
        streams = {"streamGenerateContent": True, "generateContent": False}.get(request.path_params["action"])
        if streams is None:
            return JSONResponse(PROTOCOLS["generate-content"].error(404, "there is no such action", "not_found"), 404)
        key = request.headers.get("x-goog-api-key", "")
        return await self._reply(request, "generate-content", request.path_params["model"], streams, key)

    async def models(self, request: Request) -> Response:
        listed = [{"id": n, "object": "model", "type": "model"} for n in NAMES]
        both = [{"name": f"models/{n}"} for n in NAMES]
        if "x-goog-api-key" in request.headers:
            return JSONResponse({"models": both})
        return JSONResponse({"object": "list", "data": listed, "models": both})

    async def healthy(self, _: Request) -> Response:
        return JSONResponse({"status": "ok"})

    def _bearer(self, request: Request) -> str:
        return request.headers.get("authorization", "").removeprefix("Bearer ")

    def _first(self, draw: float) -> bool:
        """Whether a conversation is seen for the first time."""
        if len(self._seen) > _MOST_NOTED:
            self._seen.clear()
        self._seen[draw] += 1
        return self._seen[draw] == 1

    async def _reply(self, request: Request, name: str, model: str, streams: bool, key: str) -> Response:
        protocol = PROTOCOLS[name]
        if self._key is not None and key != self._key:
            return refused(protocol, "wrong-key")
        try:
            asked = protocol.asked(await request.json(), model, streams)
        except (json.JSONDecodeError, KeyError, TypeError, ValueError, AttributeError):
            return JSONResponse(protocol.error(400, f"the body must be a call of {name}", "invalid_request"), 400)
        trouble, temper = trouble_of(asked.model), temper_of(asked.model)
        if trouble is None and temper is None:
            return JSONResponse(protocol.error(404, f"there is no model {asked.model!r}", "not_found_error"), 404)
        prompt = sum(len(m["content"]) for m in asked.messages) // 4
        if trouble is not None:
            if trouble.reads and prompt > trouble.reads:
                return refused(protocol, "too-long")
            if trouble.kind and (not trouble.once or self._first(chance(asked.model, asked.messages, name))):
                if trouble.kind in STATUSES:
                    return refused(protocol, trouble.kind)
                text = await self._text(asked, Temper("careful"))
                return spoilt(protocol, asked, text, Usage(prompt, len(text) // 4), trouble.kind)
            temper = Temper("careful")
        assert temper is not None
        return await self._said(protocol, asked, temper, prompt)

    async def _text(self, asked: Asked, temper: Temper) -> str:
        return (await asyncio.to_thread(reply_to, asked.messages, asked.model, temper)).text

    async def _said(self, protocol: Spoken, asked: Asked, temper: Temper, prompt: int) -> Response:
        slow = False
        if temper.kind == "flaky":
            draw = chance(asked.model, asked.messages, "stumble")
            if self._first(draw):
                if draw < 0.25:
                    return refused(protocol, "too-many-wait")
                if draw < 0.5:
                    return refused(protocol, "broken")
                if draw < 0.75:
                    text = await self._text(asked, temper)
                    return spoilt(protocol, asked, text, Usage(prompt, len(text) // 4), "cut-off")
                slow = True
        text = await self._text(asked, temper)
        spoken = max(1, len(text) // PIECE)
        wait = (self._pace_s + (SLOW_S if slow else 0.0)) / spoken
        usage = Usage(prompt, len(text) // 4)
        if asked.stream:
            stream = _stream(protocol, asked, text, usage, wait)
            return StreamingResponse(stream, media_type="text/event-stream", headers={"cache-control": "no-store"})
        await asyncio.sleep(wait * spoken)
        return JSONResponse(protocol.whole(asked.model, text, "stop", usage, asked.shaped))


async def _stream(protocol: Spoken, asked: Asked, text: str, usage: Usage, wait: float) -> AsyncIterator[str]:
    pieces = [text[at : at + PIECE] for at in range(0, len(text), PIECE)]
    for line in lines(protocol.frames(asked.model, pieces, "stop", usage, asked.shaped)):
        yield line
        if wait:
            await asyncio.sleep(wait)
    if protocol is PROTOCOLS["chat-completions"]:
        yield "data: [DONE]\n\n"
