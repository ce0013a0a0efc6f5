"""The client library against the real service, both kinds of it."""

from __future__ import annotations

import asyncio

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
)
from harquel.client.events import EventParser
from harquel.demo.stage import Stage

QUESTION = "How many sailings were cancelled in August 2026?"


def test_asking_waits_and_gives_typed_results(client: Harquel) -> None:
    inquiry = client.ask(QUESTION, "ferries")
    assert inquiry.answer is not None
    assert inquiry.answer.table.rows == [[12]]
    assert inquiry.usage.calls == 1
    assert client.me().person == "Ada Brinewell"
    assert [s.name for s in client.sources()] == ["ferries", "pair", "rough"]
    assert client.review("ferries", "SELECT 1; SELECT 2").verdict == "refuse"
    assert client.verify_ledger().intact


def test_not_waiting_gives_an_inquiry_under_way_and_its_events(client: Harquel) -> None:
    started = client.ask(QUESTION, "ferries", wait_s=0)
    events = list(client.events(started.id))
    kinds = [e.kind for e in events if e.kind != "piece"]
    assert (kinds[0], kinds[-1]) == ("accepted", "ended")
    reply = next(e.texts["reply"] for e in events if e.kind == "replied")
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

    with Harquel("http://x", "t", transport=httpx.MockTransport(answer)) as client, pytest.raises(kind) as caught:
        client.me()
    assert str(status) in str(caught.value)
    if isinstance(caught.value, Busy):
        assert caught.value.retry_after_s == 7


def test_the_event_parser_skips_comments_and_joins_lines() -> None:
    parser = EventParser()
    lines = [": still here", "", "id: 4", "event: ran", 'data: {"facts": {"row_count": 1},', 'data: "texts": {}}', ""]
    found = [e for line in lines if (e := parser.feed(line))]
    assert [(e.kind, e.number, e.facts) for e in found] == [("ran", 4, {"row_count": 1})]
