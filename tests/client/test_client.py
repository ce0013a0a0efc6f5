"""The client library against the real service, both kinds of it."""

from __future__ import annotations

import asyncio
import inspect
from types import SimpleNamespace

import httpx
import pytest

from harquel.client import (
    AsyncHarquel,
    Busy,
    Forbidden,
    Harquel,
    HarquelError,
    Invalid,
    NotFound,
    ServiceFault,
    TokenRefused,
    Unreachable,
    calls,
    describing,
    synchronous,
)
from harquel.client.events import EventParser
from harquel.demo.stage import Stage

QUESTION = "How many sailings were cancelled in August 2026?"
ENDED = {
    "id": "k", "state": "ended", "outcome": "answered", "source": "ferries", "question": "how many?",
    "asked_by": "Ada Brinewell", "asked_at": "2026-09-14T10:00:00Z",
}  # fmt: skip


def test_asking_waits_and_gives_typed_results(client: Harquel) -> None:
    inquiry = client.ask(QUESTION, "ferries")
    assert inquiry.answer is not None
    assert inquiry.answer.table.rows == [[12]]
    assert inquiry.usage.calls == 2
    assert client.me().person == "Ada Brinewell"
    assert [s.name for s in client.sources()] == ["ferries", "pair", "rough"]
    assert client.review("ferries", "SELECT 1; SELECT 2").verdict == "refuse"
    assert client.verify_ledger().intact


def test_not_waiting_gives_an_inquiry_under_way_and_its_events(client: Harquel) -> None:
    started = client.ask(QUESTION, "ferries", wait_s=0)
    events = list(client.events(started.id))
    kinds = [e.kind for e in events if e.kind != "piece"]
    assert (kinds[0], kinds[-1]) == ("accepted", "ended")
    reply = next(e.texts["reply"] for e in events if e.kind == "replied" and not e.facts.get("duty"))
    # Whoever joins while the model writes gets all of it; whoever joins later, the entry alone.
    assert "FROM sailing" in reply
    assert "".join(e.piece for e in events) in ("", reply)
    third = [e for e in events if e.number][2]
    assert third.number is not None
    assert next(e.number for e in client.events(started.id, after=third.number)) == third.number + 1


def test_the_asynchronous_client_does_the_same(stage: Stage) -> None:
    async def three() -> list[str | None]:
        async with AsyncHarquel(stage.url, stage.token) as client:
            found = await asyncio.gather(*(client.ask(QUESTION, "ferries") for _ in range(3)))
            assert (await client.inquiry(found[0].id)).state == "ended"
            assert [s.name for s in await client.sources()] == ["ferries", "pair", "rough"]
            return [i.outcome for i in found]

    assert asyncio.run(three()) == ["answered"] * 3


def test_errors_of_the_service_come_as_one_family(client: Harquel, stage: Stage) -> None:
    with pytest.raises(Invalid, match="empty") as caught:
        client.ask("  ", "ferries")
    assert caught.value.hint
    with pytest.raises(Invalid) as too_long:
        client.ask("x" * 20_000, "ferries")
    assert too_long.value.errors[0]["field"] == "question"
    with pytest.raises(NotFound):
        client.inquiry("none")
    with Harquel(stage.url, "wrong") as stranger, pytest.raises(TokenRefused):
        stranger.me()
    with Harquel("http://127.0.0.1:9", "any") as lost, pytest.raises(Unreachable, match=r"127\.0\.0\.1:9"):
        lost.me()


@pytest.mark.parametrize("name", ["..", "../tokens", "ferries/../../tokens", "%2e%2e/tokens", "a?b=c", "a#b", ""])
def test_a_name_leads_nowhere_but_to_what_is_called_so(name: str, client: Harquel) -> None:
    for call in (calls.source(name), calls.catalog(name), calls.inquiry(name), describing.table("ferries", name)):
        with pytest.raises(HarquelError, match=r"There is no|nothing here|not known"):
            client.send(call)
    with pytest.raises(HarquelError):
        client.review(name, "SELECT 1")


@pytest.mark.parametrize(
    ("status", "kind"),
    [
        (400, Invalid),
        (403, Forbidden),
        (404, NotFound),
        (409, Invalid),
        (429, Busy),
        (500, ServiceFault),
        (503, ServiceFault),
    ],
)
def test_every_status_has_its_error(status: int, kind: type[HarquelError]) -> None:
    def answer(_: httpx.Request) -> httpx.Response:
        return httpx.Response(status, text="<html>", headers={"retry-after": "7"})

    transport = httpx.MockTransport(answer)
    with Harquel("http://x", "t", transport=transport, retries=0) as client, pytest.raises(kind) as caught:
        client.me()
    assert str(status) in str(caught.value)
    if isinstance(caught.value, Busy):
        assert caught.value.retry_after_s == 7


def test_both_clients_have_the_same_calls() -> None:
    def calls_of(kind: type) -> dict[str, list[str]]:
        methods = {n: m for n, m in inspect.getmembers(kind, inspect.isfunction) if not n.startswith("_")}
        return {
            n: [f"{p.name}={p.default}" for p in inspect.signature(m).parameters.values()] for n, m in methods.items()
        }

    assert calls_of(AsyncHarquel) == calls_of(Harquel)


def test_an_address_without_a_scheme_is_said_to_be_one() -> None:
    for kind in (Harquel, AsyncHarquel):
        with pytest.raises(Invalid, match="does not say how") as caught:
            kind("127.0.0.1:8710", "t")
        assert caught.value.hint == "Write http://127.0.0.1:8710."


def test_what_may_be_repeated_is_and_nothing_else(monkeypatch: pytest.MonkeyPatch) -> None:
    paused: list[float] = []
    monkeypatch.setattr(synchronous, "time", SimpleNamespace(sleep=paused.append, monotonic=lambda: 0.0))
    seen: list[tuple[str, str | None]] = []
    turn = iter([503, 429, 201, 503, 500, 429])

    def answer(request: httpx.Request) -> httpx.Response:
        seen.append((request.method, request.headers.get("idempotency-key")))
        status = next(turn)
        if status == 201:
            return httpx.Response(201, json=ENDED)
        return httpx.Response(status, text="", headers={"retry-after": "60" if len(seen) > 5 else "3"})

    with Harquel("http://x", "t", transport=httpx.MockTransport(answer)) as client:
        assert client.ask("how many?", "ferries").outcome == "answered"
        assert [m for m, _ in seen] == ["POST"] * 3
        assert len({k for _, k in seen}) == 1, "the same key each time"
        assert all(3 <= p <= 4 for p in paused)
        with pytest.raises(ServiceFault):  # a decision is made once
            client.release("k", True)
        assert len(seen) == 4
        with pytest.raises(ServiceFault):  # a fault that does not say that it passes
            client.me()
        with pytest.raises(Busy):  # longer than anybody waits
            client.me()
    assert len(seen) == 6


def test_pages_are_gone_through_one_by_one(client: Harquel, stage: Stage) -> None:
    client.ask(QUESTION, "ferries")
    entries = list(client.each_entry())
    assert [e.seq for e in entries] == list(range(entries[0].seq, 0, -1))
    pages = {None: ([3, 2], "2"), "2": ([1], None)}

    def answer(request: httpx.Request) -> httpx.Response:
        numbers, after = pages[request.url.params.get("cursor")]
        items = [{**entries[0].model_dump(mode="json"), "seq": n} for n in numbers]
        return httpx.Response(200, json={"items": items, "next": after})

    with Harquel("http://x", "t", transport=httpx.MockTransport(answer)) as paged:
        assert [e.seq for e in paged.each_entry()] == [3, 2, 1]

    async def keys() -> list[str]:
        async with AsyncHarquel(stage.url, stage.token) as other:
            return [line.id async for line in other.each_inquiry(source="ferries")]

    assert asyncio.run(keys()) == [line.id for line in client.each_inquiry(source="ferries")]


def test_the_event_parser_skips_comments_and_joins_lines() -> None:
    parser = EventParser()
    lines = [": still here", "", "id: 4", "event: ran", 'data: {"facts": {"row_count": 1},', 'data: "texts": {}}', ""]
    found = [e for line in lines if (e := parser.feed(line))]
    assert [(e.kind, e.number, e.facts) for e in found] == [("ran", 4, {"row_count": 1})]
