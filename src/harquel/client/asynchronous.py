"""The client for coroutines: the same calls as `Harquel`, awaited."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import AsyncIterator, Sequence
from typing import TypeVar

import httpx

from harquel.client import calls
from harquel.client.calls import RESTING, Call
from harquel.client.errors import from_response, from_transport
from harquel.client.events import EventParser, StreamEvent
from harquel.contract import CatalogShape, Inquiry, InquiryPage, Me, ReviewShape, SourceLine
from harquel.web.certificates import believed

T = TypeVar("T")


class AsyncHarquel:
    """A connection to a service. Every method raises HarquelError; calls without a method go by `send`."""

    def __init__(
        self, url: str, token: str, timeout_s: float = 30.0, transport: httpx.AsyncBaseTransport | None = None
    ) -> None:
        self.url = url.rstrip("/")
        self._timeout_s = timeout_s
        self._http = httpx.AsyncClient(
            base_url=f"{self.url}/api/v1/",
            headers={"Authorization": f"Bearer {token}"} if token else {},
            timeout=timeout_s,
            transport=transport,
            verify=believed(self.url),
        )

    async def __aenter__(self) -> AsyncHarquel:
        return self

    async def __aexit__(self, *_: object) -> None:
        await self._http.aclose()

    async def send(self, call: Call[T]) -> T:
        """Sends any call of `harquel.client.calls`."""
        timeout = self._timeout_s + float((call.body or {}).get("wait_s", 0))
        try:
            response = await self._http.request(
                call.method, call.path, json=call.body, params=call.params, headers=call.headers, timeout=timeout
            )
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error
        if response.status_code >= 400:
            raise from_response(response)
        return call.read(response.json() if response.content else None)

    async def ask(
        self,
        question: str,
        source: str | None = None,
        *,
        follows: str | None = None,
        as_of: dt.datetime | None = None,
        wait_s: float = 120.0,
        idempotency_key: str | None = None,
        silence: Sequence[str] = (),
    ) -> Inquiry:
        """Asks and waits up to `wait_s` seconds; look at `state`: it may be under way still. 0 does not wait.

        `silence` names findings of review that are not to count this once; a caveat says so.
        """
        return await self._settled(
            calls.ask(question, source, follows, as_of, wait_s, idempotency_key, silence=silence), wait_s
        )

    async def choose(self, key: str, choice: str, wait_s: float = 120.0) -> Inquiry:
        """Replies to an inquiry that asked back, with the id of one of its choices: a new inquiry that follows it."""
        return await self._settled(calls.choose(key, choice, wait_s), wait_s)

    async def _settled(self, call: calls.Call[Inquiry], wait_s: float) -> Inquiry:
        deadline = time.monotonic() + wait_s
        found = await self.send(call)
        while found.state not in RESTING and time.monotonic() < deadline:
            async for _ in self.events(found.id):
                if time.monotonic() > deadline:
                    break
            found = await self.inquiry(found.id)
        return found

    async def events(self, key: str, after: int = 0) -> AsyncIterator[StreamEvent]:
        """What happens to an inquiry, from the event after number `after` to its end."""
        parser = EventParser()
        timeout = httpx.Timeout(self._timeout_s, read=60.0)
        try:
            async with self._http.stream(
                "GET", f"inquiries/{key}/events", headers={"Last-Event-ID": str(after)}, timeout=timeout
            ) as response:
                if response.status_code >= 400:
                    await response.aread()
                    raise from_response(response)
                async for line in response.aiter_lines():
                    event = parser.feed(line)
                    if event is not None:
                        yield event
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error

    async def me(self) -> Me:
        """Who am I."""
        return await self.send(calls.me())

    async def inquiry(self, key: str) -> Inquiry:
        """One inquiry, whole."""
        return await self.send(calls.inquiry(key))

    async def inquiries(self, limit: int = 50, cursor: str | None = None) -> InquiryPage:
        """A page of inquiries, newest first."""
        return await self.send(calls.inquiries(cursor, limit, None, None, None))

    async def release(self, key: str, approve: bool, note: str = "") -> Inquiry:
        """Lets a held statement run, or ends its inquiry; needs the scope release."""
        return await self.send(calls.release(key, approve, note))

    async def cancel(self, key: str) -> None:
        """Asks an inquiry to stop."""
        await self.send(calls.cancel(key))

    async def review(self, source: str, sql: str, question: str | None = None) -> ReviewShape:
        """What guard and review make of a statement; nothing is run."""
        return await self.send(calls.review(source, sql, question))

    async def sources(self) -> list[SourceLine]:
        """All sources for this token."""
        return await self.send(calls.sources())

    async def catalog(self, name: str) -> CatalogShape:
        """What a source holds."""
        return await self.send(calls.catalog(name))
