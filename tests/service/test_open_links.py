"""Open links: what people without an account see, for how long, and what they never see."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from typing import Any

import httpx
import pytest

from harquel.client import Forbidden, Harquel, HarquelError, Invalid, NotFound, calls
from harquel.client.casebooks import keep_titled, write_casebook
from harquel.client.open_links import end_open_link, open_links, share_answer, share_casebook
from harquel.demo.stage import Stage
from tests.outside import policy_of

AUGUST = "How many sailings were cancelled in August 2026?"
_TEXT = "In August [=sailings-cancelled-august] <script>x</script>"
MONTHS = "How many sailings were cancelled per month in 2026?"


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("open-links")) as running:
        policy_of(running, "sharing", {"days": 14})
        yield running


def seen(own: Stage, url: str, **more: Any) -> httpx.Response:
    """What somebody without an account gets."""
    assert url.startswith(f"{own.url}/shared/")
    return httpx.get(url, timeout=30, **more)


def changed(own: Stage, statement: str, *values: object) -> None:
    with closing(sqlite3.connect(own.folder / "records" / "records.db", timeout=20)) as records, records:
        records.execute(statement, values)


def test_a_page_is_fixed_holds_for_its_time_and_tells_nothing_else(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(MONTHS, "ferries")
        assert asked.answer is not None
        made = client.send(share_answer(asked.id, 2, "for the board"))
        page = seen(own, made.url)
        assert (page.status_code, seen(own, made.url).text) == (200, page.text)
        for told in (asked.answer.text, "Shown to you by Ada Brinewell", "2026-01", "51", "clear", "<svg"):
            assert told in page.text, told
        # Neither the statement nor the source, nor any other address or key.
        for kept in (asked.answer.sql, "SELECT", "ferries", asked.id, own.token, "/inquiries/", "scheduled_departure"):
            assert kept not in re.sub(r"<svg.*?</svg>", "", page.text, flags=re.DOTALL), kept
        assert not re.search(r"<(script|img|iframe|form|link)", page.text)
        head = page.headers
        assert "noindex" in head["x-robots-tag"]
        assert (head["referrer-policy"], head["cache-control"], head["x-frame-options"]) == (
            "no-referrer", "no-store", "DENY"
        )  # fmt: skip
        assert "default-src 'none'" in head["content-security-policy"]
        assert "set-cookie" not in head
        assert "Disallow: /" in httpx.get(f"{own.url}/robots.txt").text
        (line,) = [one for one in client.send(open_links()) if one.id == made.id]
        assert (line.holds, line.opened, line.note) == (True, 1, "for the board")
        assert "url" not in line.model_dump()
        # Only its digest is kept.
        secret = made.url.rpartition("/")[2]
        for file in (own.folder / "records").glob("records.db*"):
            assert secret.encode() not in file.read_bytes()
        client.send(end_open_link(made.id))
        client.send(end_open_link(made.id))
        gone = seen(own, made.url, headers={"accept-language": "de"})
        assert (gone.status_code, "zeigt nichts" in gone.text) == (404, True)
        kinds = [e.kind for e in client.ledger(limit=50, inquiry=asked.id).items]
        assert kinds[:2] == ["open-link-opened", "open-link-made"]
        assert client.verify_ledger().intact


def test_what_is_no_link_looks_the_same_whatever_it_is(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        over = client.send(share_answer(client.ask(AUGUST, "ferries").id, 1))
    changed(own, "UPDATE open_links_storedopenlink SET until = '2026-01-01' WHERE key = ?", over.id)
    secret = over.url.rpartition("/")[2]
    pages = {
        seen(own, f"{own.url}/shared/{tried}").text
        for tried in (secret, "x", secret[:-1] + "A", secret + "A", "A" * 43, "A" * 20_000, "%2e%2e", "‮" * 9, over.id)
    }
    assert len(pages) == 1
    for method in ("POST", "PUT", "DELETE"):
        assert httpx.request(method, over.url).status_code in (403, 405)
    with Harquel(own.url, own.token) as client:
        (line,) = [one for one in client.send(open_links()) if one.id == over.id]
    assert (line.holds, line.why_ended) == (False, "its time is over")


def test_who_may_and_what_ends_it(own: Stage) -> None:
    with Harquel(own.url, own.token) as admin:
        token = admin.create_token("mine", "Rhea Quist", ["ferries"], ["ask"])
        crew = admin.create_token("crew", "Mara Holt", ["ferries"], ["ask"], ["crewing"])
        with Harquel(own.url, token.secret) as rhea, Harquel(own.url, crew.secret) as mara:
            asked = rhea.ask(AUGUST, "ferries")
            names = mara.ask("List the names of all crew members", "ferries")
            for client, call, error, said in (
                (admin, share_answer(asked.id), Forbidden, "asked"),
                (mara, share_answer(asked.id), NotFound, "no inquiry"),
                (mara, share_answer(names.id), Forbidden, "personal"),
                (rhea, share_answer(asked.id, 15), Invalid, "14 days"),
                (rhea, share_answer(asked.id, 0), Invalid, "days"),
            ):  # fmt: skip
                with pytest.raises(error, match=said):
                    client.send(call)
            first, second = (rhea.send(share_answer(asked.id)) for _ in range(2))
            assert first.url != second.url
            with pytest.raises(NotFound):
                mara.send(end_open_link(first.id))
            assert mara.send(open_links()) == []
            assert {one.id for one in admin.send(open_links())} >= {first.id, second.id}
            # Roles, the policy of now, a standstill, the maker's token: each ends what was shown.
            policy_of(own, "sharing", {"days": 14, "roles": ["board"]})
            with pytest.raises(Forbidden, match="policy"):
                rhea.send(share_answer(asked.id))
            policy_of(own, "sharing", None)
            assert seen(own, first.url).status_code == 404
            policy_of(own, "sharing", {"days": 14})
            assert seen(own, first.url).status_code == 200
            admin.send(calls.standstill(True))
            assert seen(own, first.url).status_code == 404
            admin.send(calls.standstill(False))
            assert seen(own, first.url).status_code == 200
            admin.send(end_open_link(second.id))
            admin.revoke_token(token.id)
            assert seen(own, first.url).status_code == 404
            (line,) = [one for one in admin.send(open_links()) if one.id == first.id]
            assert "token" in line.why_ended


def test_a_casebook_is_shown_as_it_was(own: Stage) -> None:
    with Harquel(own.url, own.token) as client:
        asked = client.ask(AUGUST, "ferries")
        book = client.send(keep_titled(asked.id, "For the board", _TEXT))
        made = client.send(share_casebook(book.id))
        page = seen(own, made.url).text
        assert "In August <span" in page
        assert ">12</span> &lt;script&gt;" in page
        assert "SELECT" not in page
        client.send(write_casebook(book.id, book.version, text="otherwise", drop=["sailings-cancelled-august"]))
        assert seen(own, made.url).text == page
        with pytest.raises(HarquelError, match="no answer in this"):
            client.send(share_casebook(book.id))
        facts = [e.facts for e in client.ledger(limit=30).items if e.kind == "open-link-made"]
        assert (facts[0]["casebook"], facts[0]["days"]) == (book.id, 7)
        assert made.url.rpartition("/")[2] not in json.dumps(facts)
