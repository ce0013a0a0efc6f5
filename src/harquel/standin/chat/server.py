"""The simulated chat over HTTP: its page, what people say there, and the service on the other side."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any, Final

import httpx
from starlette.applications import Starlette
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import FileResponse, JSONResponse, Response, StreamingResponse
from starlette.routing import Mount, Route
from starlette.staticfiles import StaticFiles

from .forms import FORMS
from .room import HARQUEL, PEOPLE, Room, direct
from .signing import Signer

_PAGE: Final = Path(__file__).parent / "page"
_LARGEST: Final = 2_000_000
_LONGEST: Final = 20_000
_TRIES_S: Final = (0.0, 1.0, 4.0)
_HEADERS: Final = {
    "content-security-policy": "default-src 'none'; script-src 'self'; style-src 'self'; connect-src 'self'; "
    "img-src data:; base-uri 'none'; frame-ancestors 'none'",
    "x-content-type-options": "nosniff", "cache-control": "no-cache",
}  # fmt: skip


def build(service: str, secret: str, form: str = "plain") -> Starlette:
    """The application; `service` is where what is said goes, `secret` what signs both ways."""
    chat = _Chat(service, Signer(secret), form)
    return Starlette(
        lifespan=chat.running,
        routes=[
            Route("/", chat.page), Route("/people", chat.people), Route("/messages", chat.messages),
            Route("/changes", chat.changes), Route("/say", chat.say, methods=["POST"]),
            Route("/press", chat.press, methods=["POST"]), Route("/hooks/harquel", chat.hook, methods=["POST"]),
            Route("/healthz", chat.healthy), Mount("/page", StaticFiles(directory=_PAGE)),
        ],
    )  # fmt: skip


class _Chat:
    def __init__(self, service: str, signer: Signer, form: str) -> None:
        self._service, self._signer, self._form, self._room = service, signer, FORMS[form], Room()
        self._under_way: set[asyncio.Task[None]] = set()
        self._http: httpx.AsyncClient | None = None

    @asynccontextmanager
    async def running(self, _: Starlette) -> AsyncIterator[None]:
        async with httpx.AsyncClient(timeout=15) as self._http:
            yield
            for task in self._under_way:
                task.cancel()

    async def page(self, _: Request) -> Response:
        return FileResponse(_PAGE / "index.html", headers=_HEADERS)

    async def healthy(self, _: Request) -> Response:
        return JSONResponse({"status": "ok"})

    async def people(self, request: Request) -> Response:
        person = _person(request.query_params.get("person", "odo"))
        return JSONResponse({"people": PEOPLE, "places": self._room.places(person)})

    async def messages(self, request: Request) -> Response:
        place = self._place(request.query_params.get("place", ""), _person(request.query_params.get("person", "")))
        return JSONResponse({"version": self._room.version, "messages": self._room.of(place)})

    async def changes(self, _: Request) -> Response:
        async def told() -> AsyncIterator[str]:
            version = self._room.version
            while True:
                yield f"data: {version}\n\n"
                version = await self._room.wait(version)

        return StreamingResponse(told(), media_type="text/event-stream", headers={"cache-control": "no-store"})

    async def say(self, request: Request) -> Response:
        body = await _read(request)
        person, text = _person(body.get("person")), str(body.get("text", "")).strip()
        place, thread = self._place(body.get("place"), person), body.get("thread")
        if not text or len(text) > _LONGEST:
            raise HTTPException(422, "Say something, not too long.")
        made = await self._room.add(place, thread, person, text)
        alone = place == direct(person)
        called = text.lower().startswith(("/harquel", "@harquel"))
        if alone or called or self._room.heard_by_service(made.thread):
            said = self._form.said(made.id, person, place, alone, made.thread, text)
            self._tell(made.id, said)
        return JSONResponse({"id": made.id, "thread": made.thread}, 201)

    async def press(self, request: Request) -> Response:
        body = await _read(request)
        person = _person(body.get("person"))
        place, found = self._place(body.get("place"), person), self._room.find(str(body.get("message")))
        if found is None or found.place != place:
            raise HTTPException(404)
        chosen = next((c for c in found.choices if c["value"] == body.get("value")), None)
        if chosen is None:
            raise HTTPException(422)
        made = await self._room.add(place, found.thread, person, f"[{chosen['label']}]")
        alone = place == direct(person)
        self._tell(made.id, self._form.pressed(made.id, person, place, alone, found.thread, chosen["value"]))
        return JSONResponse({"id": made.id}, 201)

    async def hook(self, request: Request) -> Response:
        body = await request.body()
        if len(body) > _LARGEST or not self._signer.counts(request.headers, body):
            return JSONResponse({"error": "not signed"}, 401)
        found = self._form.read(body)
        person = found.pop("person")
        place = found.pop("place") or (direct(person) if person in PEOPLE else None)
        if place is None or (person is None and place not in self._known()):
            return JSONResponse({"error": "nobody of that id"}, 404)
        await self._room.put(found.pop("id"), found.pop("revision"), place, found.pop("thread"), **found)
        return Response(status_code=204)

    def _known(self) -> set[str]:
        return {place for person in PEOPLE for place in self._room.places(person)}

    def _place(self, place: Any, person: str) -> str:
        if place not in self._room.places(person):
            raise HTTPException(404, "There is no such place for this person.")
        return str(place)

    def _tell(self, key: str, body: bytes) -> None:
        task = asyncio.create_task(self._told(key, body))
        self._under_way.add(task)
        task.add_done_callback(self._under_way.discard)

    async def _told(self, key: str, body: bytes) -> None:
        said = ""
        for pause in _TRIES_S:
            await asyncio.sleep(pause)
            try:
                assert self._http is not None
                headers = {"content-type": "application/json", **self._signer.headers(f"{HARQUEL}-{key}", body)}
                response = await self._http.post(self._service, content=body, headers=headers)
                if response.is_success:
                    return
                said = f"the service answered {response.status_code}"
            except httpx.HTTPError:
                said = "the service does not answer"
        found = self._room.find(key)
        if found is not None:
            found.note = f"Not taken: {said}."
            await self._room.changed()


def _person(name: Any) -> str:
    if name not in PEOPLE:
        raise HTTPException(404, "There is nobody of that name here.")
    return str(name)


async def _read(request: Request) -> dict[str, Any]:
    try:
        found = await request.json()
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise HTTPException(400) from error
    if not isinstance(found, dict):
        raise HTTPException(400)
    return found
