"""The client for coroutines: the same calls as `Harquel`, awaited."""

from __future__ import annotations

import asyncio
import datetime as dt
import time
from collections.abc import AsyncIterator, Sequence
from typing import Any, BinaryIO, Literal, TypeVar

import httpx

from harquel.client import calls
from harquel.client.calls import RESTING, Call
from harquel.client.errors import HarquelError, from_response, from_transport
from harquel.client.events import EventParser, StreamEvent
from harquel.client.retrying import address, keyed, pause_before
from harquel.contract import (
    CatalogShape,
    Drawing,
    DrawWish,
    EntryPage,
    EntryShape,
    Form,
    Inquiry,
    InquiryLine,
    InquiryPage,
    Me,
    ReviewShape,
    SourceLine,
    Token,
    TokenCreated,
    Verification,
)
from harquel.web.certificates import believed

T = TypeVar("T")


class AsyncHarquel:
    """A connection to a service. Every method raises HarquelError; calls without a method go by `send`."""

    def __init__(
        self, url: str, token: str, timeout_s: float = 30.0, transport: httpx.AsyncBaseTransport | None = None,
        retries: int = 2,
    ) -> None:  # fmt: skip
        self.url = address(url)
        self._timeout_s, self._retries = timeout_s, retries
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
        await self.close()

    async def close(self) -> None:
        """Gives the connection back."""
        await self._http.aclose()

    async def send(self, call: Call[T]) -> T:
        """Sends any call."""
        call = keyed(call)
        for tried in range(self._retries + 1):
            try:
                return await self._send(call)
            except HarquelError as error:
                pause = pause_before(call, error, tried) if tried < self._retries else None
                if pause is None:
                    raise
                await asyncio.sleep(pause)
        raise AssertionError("the last try returns or raises")

    async def _send(self, call: Call[T]) -> T:
        timeout = self._timeout_s + float((call.body or {}).get("wait_s", 0))
        try:
            response = await self._http.request(
                call.method, call.path, json=call.body, params=call.params, headers=call.headers, timeout=timeout
            )
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error
        if response.status_code >= 400:
            raise from_response(response)
        if call.raw:
            return call.read(response.content)
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
        complete: bool = False,
    ) -> Inquiry:
        """Asks and waits up to `wait_s` seconds; look at `state`: it may be under way still. 0 does not wait.

        What follows an inquiry (`follows`) is understood together with it: "and last year?"; unless the question is
        `complete`. `silence` names findings of review that are not to count this once; a caveat says so.
        """
        return await self._settled(
            calls.ask(question, source, follows, as_of, wait_s, idempotency_key, silence=silence, complete=complete),
            wait_s,
        )

    async def choose(self, key: str, choice: str, wait_s: float = 120.0) -> Inquiry:
        """Replies to an inquiry that asked back, with the id of one of its choices: a new inquiry that follows it."""
        return await self._settled(calls.choose(key, choice, wait_s), wait_s)

    async def again(self, key: str, wait_s: float = 120.0) -> Inquiry:
        """Has the statement of an answer of one's own run once more; the new answer says what is different."""
        return await self.choose(key, "again", wait_s)

    async def redraft(
        self, key: str, model: str | None = None, shipped: bool = False, wait_s: float = 120.0
    ) -> Inquiry:  # fmt: skip
        """Has an answered question of one's own drafted again, by another model or by the templates that ship; needs
        the scope steward. The answer before stays as it is; `redraft` of the new inquiry says how both compare.
        """
        return await self._settled(calls.redraft(key, model, shipped, wait_s), wait_s)

    async def _settled(self, call: calls.Call[Inquiry], wait_s: float) -> Inquiry:
        deadline = time.monotonic() + wait_s
        found = await self.send(call)
        while found.state not in RESTING and (left := deadline - time.monotonic()) > 0:
            async for _ in self.events(found.id, within_s=left):
                pass
            found = await self.inquiry(found.id)
        return found

    async def events(self, key: str, after: int = 0, within_s: float | None = None) -> AsyncIterator[StreamEvent]:
        """What happens to an inquiry, from the event after number `after` to its end, or for `within_s`."""
        parser, deadline = EventParser(), time.monotonic() + within_s if within_s is not None else None
        timeout = httpx.Timeout(self._timeout_s, read=60.0)
        try:
            async with self._http.stream(
                "GET", f"inquiries/{calls.part(key)}/events", headers={"Last-Event-ID": str(after)}, timeout=timeout
            ) as response:
                if response.status_code >= 400:
                    await response.aread()
                    raise from_response(response)
                async for line in response.aiter_lines():
                    event = parser.feed(line)
                    if event is not None:
                        yield event
                    if deadline is not None and time.monotonic() > deadline:
                        return
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error

    async def me(self) -> Me:
        """Who am I."""
        return await self.send(calls.me())

    async def inquiry(self, key: str) -> Inquiry:
        """One inquiry, whole."""
        return await self.send(calls.inquiry(key))

    async def take_away(self, key: str, form: Form = "csv", picture: str = "") -> bytes:
        """The answer of an inquiry as a file: csv, json, xlsx, md, html; its chart as svg or png, as `picture` says:
        "as bars", "only the top 10".
        """
        return await self.send(calls.take_away(key, form, picture))

    async def deliver(self, key: str, wait_s: float = 120.0) -> Inquiry:
        """Has all rows of an answer written to a file, as far as the source's policy lets it: a new inquiry, whose file
        `take_all_away` gets. While it is under way its `delivering` says how far it has come.
        """
        return await self.choose(key, "whole", wait_s)

    async def take_all_away(self, key: str, out: BinaryIO, form: Literal["csv", "jsonl"] = "csv") -> int:
        """Writes the file of a delivered inquiry to `out` as it comes, and returns how many bytes it has."""
        call, size = calls.take_away(key, form), 0
        timeout = httpx.Timeout(self._timeout_s, read=60.0)
        try:
            async with self._http.stream(call.method, call.path, params=call.params, timeout=timeout) as response:
                if response.status_code >= 400:
                    await response.aread()
                    raise from_response(response)
                async for piece in response.aiter_bytes():
                    size += out.write(piece)
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error
        return size

    async def draw(self, key: str, wish: DrawWish | None = None) -> Drawing:
        """The chart of an answer as a specification of Vega-Lite, with its rows in it."""
        return await self.send(calls.draw(key, wish or DrawWish()))

    async def inquiries(
        self, limit: int = 50, cursor: str | None = None, source: str | None = None, outcome: str | None = None,
        state: str | None = None, thread: str | None = None,
    ) -> InquiryPage:  # fmt: skip
        """A page of inquiries, newest first; with `thread` the one with that id and those that follow it."""
        return await self.send(calls.inquiries(cursor, limit, source, outcome, state, thread))

    async def each_inquiry(
        self, source: str | None = None, outcome: str | None = None, state: str | None = None
    ) -> AsyncIterator[InquiryLine]:
        """All inquiries, newest first, page after page as they are needed."""
        cursor: str | None = None
        while True:
            page = await self.inquiries(200, cursor, source, outcome, state)
            for line in page.items:
                yield line
            cursor = page.next
            if cursor is None:
                return

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

    async def source(self, name: str) -> SourceLine:
        """One source."""
        return await self.send(calls.source(name))

    async def catalog(self, name: str) -> CatalogShape:
        """What a source holds."""
        return await self.send(calls.catalog(name))

    async def tokens(self) -> list[Token]:
        """All tokens."""
        return await self.send(calls.tokens())

    async def create_token(
        self, name: str, person: str, sources: list[str], scopes: list[str], roles: list[str] | None = None,
        values: dict[str, Any] | None = None, days: int | None = 365,
    ) -> TokenCreated:  # fmt: skip
        """A new token with its secret, which is shown this once."""
        return await self.send(calls.create_token(name, person, sources, scopes, roles or [], values or {}, days))

    async def revoke_token(self, token_id: int) -> None:
        """Revokes a token."""
        await self.send(calls.revoke_token(token_id))

    async def ledger(self, limit: int = 50, cursor: str | None = None, inquiry: str | None = None) -> EntryPage:
        """A page of ledger entries, newest first."""
        return await self.send(calls.ledger(cursor, limit, inquiry))

    async def each_entry(self, inquiry: str | None = None) -> AsyncIterator[EntryShape]:
        """All ledger entries, newest first, page after page as they are needed."""
        cursor: str | None = None
        while True:
            page = await self.ledger(200, cursor, inquiry)
            for entry in page.items:
                yield entry
            cursor = page.next
            if cursor is None:
                return

    async def verify_ledger(self, anchor: str | None = None) -> Verification:
        """Whether the chain holds; `anchor` is SEQ:DIGEST of an entry noted earlier."""
        return await self.send(calls.verify_ledger(anchor))
