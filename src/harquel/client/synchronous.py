"""The client for ordinary code."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Iterator, Sequence
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


class Harquel:
    """A connection to a service. Every method raises HarquelError; use it as a context manager.

    `url` is the service's address without the API's prefix; `timeout_s` is for one response, beyond
    what the call itself waits for. `retries` is how often a call is sent once more that may be: what reads, and
    what creates something, under a key that lets it be created once only.
    """

    def __init__(
        self, url: str, token: str, timeout_s: float = 30.0, transport: httpx.BaseTransport | None = None,
        retries: int = 2,
    ) -> None:  # fmt: skip
        self.url = address(url)
        self._timeout_s, self._retries = timeout_s, retries
        self._http = httpx.Client(
            base_url=f"{self.url}/api/v1/",
            headers={"Authorization": f"Bearer {token}"} if token else {},
            timeout=timeout_s,
            transport=transport,
            verify=believed(self.url),
        )

    def __enter__(self) -> Harquel:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Gives the connection back."""
        self._http.close()

    def send(self, call: Call[T]) -> T:
        """Sends any call."""
        call = keyed(call)
        for tried in range(self._retries + 1):
            try:
                return self._send(call)
            except HarquelError as error:
                pause = pause_before(call, error, tried) if tried < self._retries else None
                if pause is None:
                    raise
                time.sleep(pause)
        raise AssertionError("the last try returns or raises")

    def _send(self, call: Call[T]) -> T:
        timeout = self._timeout_s + float((call.body or {}).get("wait_s", 0))
        try:
            response = self._http.request(
                call.method, call.path, json=call.body, params=call.params, headers=call.headers, timeout=timeout
            )
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error
        if response.status_code >= 400:
            raise from_response(response)
        if call.raw:
            return call.read(response.content)
        return call.read(response.json() if response.content else None)

    def ask(
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
        return self._settled(
            calls.ask(question, source, follows, as_of, wait_s, idempotency_key, silence=silence, complete=complete),
            wait_s,
        )

    def choose(self, key: str, choice: str, wait_s: float = 120.0) -> Inquiry:
        """Replies to an inquiry that asked back, with the id of one of its choices: a new inquiry that follows it."""
        return self._settled(calls.choose(key, choice, wait_s), wait_s)

    def again(self, key: str, wait_s: float = 120.0) -> Inquiry:
        """Has the statement of an answer of one's own run once more; the new answer says what is different."""
        return self.choose(key, "again", wait_s)

    def redraft(
        self, key: str, model: str | None = None, shipped: bool = False, wait_s: float = 120.0
    ) -> Inquiry:  # fmt: skip
        """Has an answered question of one's own drafted again, by another model or by the templates that ship; needs
        the scope steward. The answer before stays as it is; `redraft` of the new inquiry says how both compare.
        """
        return self._settled(calls.redraft(key, model, shipped, wait_s), wait_s)

    def _settled(self, call: calls.Call[Inquiry], wait_s: float) -> Inquiry:
        deadline = time.monotonic() + wait_s
        found = self.send(call)
        while found.state not in RESTING and (left := deadline - time.monotonic()) > 0:
            for _ in self.events(found.id, within_s=left):
                pass
            found = self.inquiry(found.id)
        return found

    def events(self, key: str, after: int = 0, within_s: float | None = None) -> Iterator[StreamEvent]:
        """What happens to an inquiry, from the event after number `after` to its end, or for `within_s`."""
        parser, deadline = EventParser(), time.monotonic() + within_s if within_s is not None else None
        timeout = httpx.Timeout(self._timeout_s, read=60.0)
        try:
            with self._http.stream(
                "GET", f"inquiries/{calls.part(key)}/events", headers={"Last-Event-ID": str(after)}, timeout=timeout
            ) as response:
                if response.status_code >= 400:
                    response.read()
                    raise from_response(response)
                for line in response.iter_lines():
                    event = parser.feed(line)
                    if event is not None:
                        yield event
                    if deadline is not None and time.monotonic() > deadline:
                        return
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error

    def me(self) -> Me:
        """Who am I."""
        return self.send(calls.me())

    def inquiry(self, key: str) -> Inquiry:
        """One inquiry, whole."""
        return self.send(calls.inquiry(key))

    def take_away(self, key: str, form: Form = "csv", picture: str = "") -> bytes:
        """The answer of an inquiry as a file: csv, json, xlsx, md, html; its chart as svg or png, as `picture` says:
        "as bars", "only the top 10".
        """
        return self.send(calls.take_away(key, form, picture))

    def deliver(self, key: str, wait_s: float = 120.0) -> Inquiry:
        """Has all rows of an answer written to a file, as far as the source's policy lets it: a new inquiry, whose file
        `take_all_away` gets. While it is under way its `delivering` says how far it has come.
        """
        return self.choose(key, "whole", wait_s)

    def take_all_away(self, key: str, out: BinaryIO, form: Literal["csv", "jsonl"] = "csv") -> int:
        """Writes the file of a delivered inquiry to `out` as it comes, and returns how many bytes it has."""
        call, size = calls.take_away(key, form), 0
        timeout = httpx.Timeout(self._timeout_s, read=60.0)
        try:
            with self._http.stream(call.method, call.path, params=call.params, timeout=timeout) as response:
                if response.status_code >= 400:
                    response.read()
                    raise from_response(response)
                for piece in response.iter_bytes():
                    size += out.write(piece)
        except httpx.HTTPError as error:
            raise from_transport(error, self.url) from error
        return size

    def draw(self, key: str, wish: DrawWish | None = None) -> Drawing:
        """The chart of an answer as a specification of Vega-Lite, with its rows in it."""
        return self.send(calls.draw(key, wish or DrawWish()))

    def inquiries(
        self, limit: int = 50, cursor: str | None = None, source: str | None = None, outcome: str | None = None,
        state: str | None = None, thread: str | None = None,
    ) -> InquiryPage:  # fmt: skip
        """A page of inquiries, newest first; with `thread` the one with that id and those that follow it."""
        return self.send(calls.inquiries(cursor, limit, source, outcome, state, thread))

    def each_inquiry(
        self, source: str | None = None, outcome: str | None = None, state: str | None = None
    ) -> Iterator[InquiryLine]:
        """All inquiries, newest first, page after page as they are needed."""
        cursor: str | None = None
        while True:
            page = self.inquiries(200, cursor, source, outcome, state)
            yield from page.items
            cursor = page.next
            if cursor is None:
                return

    def release(self, key: str, approve: bool, note: str = "") -> Inquiry:
        """Lets a held statement run, or ends its inquiry; needs the scope release."""
        return self.send(calls.release(key, approve, note))

    def cancel(self, key: str) -> None:
        """Asks an inquiry to stop."""
        self.send(calls.cancel(key))

    def review(self, source: str, sql: str, question: str | None = None) -> ReviewShape:
        """What guard and review make of a statement; nothing is run."""
        return self.send(calls.review(source, sql, question))

    def sources(self) -> list[SourceLine]:
        """All sources for this token."""
        return self.send(calls.sources())

    def source(self, name: str) -> SourceLine:
        """One source."""
        return self.send(calls.source(name))

    def catalog(self, name: str) -> CatalogShape:
        """What a source holds."""
        return self.send(calls.catalog(name))

    def tokens(self) -> list[Token]:
        """All tokens."""
        return self.send(calls.tokens())

    def create_token(
        self, name: str, person: str, sources: list[str], scopes: list[str], roles: list[str] | None = None,
        values: dict[str, Any] | None = None, days: int | None = 365,
    ) -> TokenCreated:  # fmt: skip
        """A new token with its secret, which is shown this once."""
        return self.send(calls.create_token(name, person, sources, scopes, roles or [], values or {}, days))

    def revoke_token(self, token_id: int) -> None:
        """Revokes a token."""
        self.send(calls.revoke_token(token_id))

    def ledger(self, limit: int = 50, cursor: str | None = None, inquiry: str | None = None) -> EntryPage:
        """A page of ledger entries, newest first."""
        return self.send(calls.ledger(cursor, limit, inquiry))

    def each_entry(self, inquiry: str | None = None) -> Iterator[EntryShape]:
        """All ledger entries, newest first, page after page as they are needed."""
        cursor: str | None = None
        while True:
            page = self.ledger(200, cursor, inquiry)
            yield from page.items
            cursor = page.next
            if cursor is None:
                return

    def verify_ledger(self, anchor: str | None = None) -> Verification:
        """Whether the chain holds; `anchor` is SEQ:DIGEST of an entry noted earlier."""
        return self.send(calls.verify_ledger(anchor))
