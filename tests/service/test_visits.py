"""Visits: what a token for a short while may, whose it is, and when it ends."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing

import httpx
import pytest

from harquel.client import Forbidden, Harquel, HarquelError, Invalid, NotFound, TokenRefused, calls
from harquel.client.calls import begin_visit
from harquel.client.casebooks import keep_titled
from harquel.client.open_links import share_answer
from harquel.demo.stage import Stage

ORIGIN = "https://intranet.example"


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    environment = {"HARQUEL__EMBEDDING__ORIGINS": f"{ORIGIN}, http://127.0.0.1:8721"}
    with new_stage(tmp_path_factory.mktemp("visits"), environment=environment) as running:
        yield running


def test_a_visit_asks_as_somebody_of_its_own_and_nothing_else(own: Stage) -> None:
    with Harquel(own.url, own.token) as admin:
        clerk = admin.create_token(
            "desk", "Harbour Desk", ["ferries", "pair"], ["ask", "steward"], ["harbour-clerk"], {"islands": []}
        )  # fmt: skip
        with Harquel(own.url, clerk.secret) as desk:
            mine = desk.ask("How many bookings are there?", "ferries")
            one, other = (desk.send(begin_visit(name, ["ferries"])) for name in ("4711", "4712"))
            for sources, said in ((["rough"], "rough"), (["*", "nowhere"], ""), (["ferries", "rough"], "rough")):
                if said:
                    with pytest.raises(Forbidden, match=said):
                        desk.send(begin_visit("4711", sources))
                else:
                    assert set(desk.send(begin_visit("4711", sources)).sources) == {"ferries", "pair"}
            for minutes in (0, 61):
                with pytest.raises(Invalid):
                    desk.send(begin_visit("4711", minutes=minutes))
        assert (one.person[:5], one.person[-17:], one.page) == ("4711 ", " via Harbour Desk", f"{own.url}/embed")
        with Harquel(own.url, one.token) as visitor, Harquel(own.url, other.token) as second:
            me = visitor.me()
            assert (me.scopes, me.sources, me.roles, me.values) == (
                ["ask"],
                ["ferries"],
                ["harbour-clerk"],
                {"islands": []},
            )
            found = visitor.ask("How many bookings are there?", "ferries")
            # With the rights of the desk, and no others.
            assert found.answer is not None
            assert mine.answer is not None
            assert found.answer.table.rows == mine.answer.table.rows
            assert [i.id for i in visitor.inquiries().items] == [found.id]
            assert second.inquiries().items == []
            for call in (calls.inquiry(mine.id), calls.inquiry("0")):
                with pytest.raises(NotFound):
                    visitor.send(call)
            with pytest.raises(NotFound):
                second.send(calls.inquiry(found.id))
            # Nothing that lasts, goes out, or lets it go on: each of these the desk's own token may.
            for method, path, body in (
                ("POST", "visits", {"visitor": "x"}), ("POST", "casebooks", {"title": "x"}),
                ("POST", f"inquiries/{found.id}/casebooks", {"title": "x"}),
                ("POST", f"inquiries/{found.id}/open-links", {}),
                ("POST", f"inquiries/{found.id}/watches", {"when": "hourly", "to": ["x"]}),
                ("POST", f"inquiries/{found.id}/sendings", {"to": "odo.finch@marrowick.example"}),
                ("POST", "chats/town/codes", {}), ("POST", "tokens", {"name": "x", "person": "y"}),
                ("POST", "session", {"token": one.token}),
            ):  # fmt: skip
                status = httpx.request(
                    method, f"{own.url}/api/v1/{path}", json=body, headers={"authorization": f"Bearer {one.token}"}
                ).status_code
                assert status in (401, 403), (path, status)
            assert [t.person for t in admin.tokens() if "via" in t.person].count(one.person) == 2
            admin.revoke_token(clerk.id)
            for ended in (visitor, second):
                with pytest.raises(TokenRefused):
                    ended.me()
        assert not [t for t in admin.tokens() if "via" in t.person]
        assert admin.verify_ledger().intact


def test_no_two_visitors_are_one(own: Stage) -> None:
    """However alike their names are, and by whatever token of one person."""
    names = (
        "aB3",
        "Ab3",
        "ab 3",
        "ab  3",
        "ab\u00a03",
        "x" * 59 + "1",
        "x" * 59 + "2",
        "\u202eab3",
        "ab3\x07",
        "ﬁ",
        "fi",
    )
    with Harquel(own.url, own.token) as admin:
        wide, narrow = (
            admin.create_token(name, "Two Desks", ["ferries"], ["ask"], roles)
            for name, roles in (("wide", ["crewing"]), ("narrow", []))
        )
        people, secrets = set(), []
        for token in (wide, narrow):
            with Harquel(own.url, token.secret) as desk:
                for name in names:
                    made = desk.send(begin_visit(name))
                    people.add(made.person)
                    secrets.append(made.token)
        assert len(people) == len({number_of(own, secret) for secret in secrets}) == 2 * len(names)


def number_of(own: Stage, secret: str) -> int | None:
    with Harquel(own.url, secret) as visitor:
        return visitor.me().person_id


def test_a_visit_is_over_in_time_and_there_are_not_too_many(own: Stage) -> None:
    with Harquel(own.url, own.token) as admin:
        desk = admin.create_token("many", "Many Desks", ["ferries"], ["ask"])
        with Harquel(own.url, desk.secret, retries=0) as client:
            made = client.send(begin_visit("one"))
            with Harquel(own.url, made.token) as visitor:
                asked = visitor.ask("How many vessels are there?", "ferries")
                with pytest.raises(Forbidden, match="asks questions"):
                    visitor.send(keep_titled(asked.id, "Mine"))
                with pytest.raises(Forbidden):
                    visitor.send(share_answer(asked.id))
                with closing(sqlite3.connect(own.folder / "records" / "records.db", timeout=20)) as records, records:
                    records.execute("UPDATE access_token SET expires_at = '2026-01-01' WHERE parent_id = ?", (desk.id,))
                with pytest.raises(TokenRefused):
                    visitor.me()
            for _ in range(119):
                client.send(begin_visit("one"))
            with pytest.raises(HarquelError, match="Too many visits"):
                client.send(begin_visit("one"))


def test_the_page_stands_in_the_frames_that_are_named_and_in_no_other(own: Stage, stage: Stage) -> None:
    page = httpx.get(f"{own.url}/embed")
    policy = page.headers["content-security-policy"]
    assert f"frame-ancestors {ORIGIN} http://127.0.0.1:8721;" in policy
    assert "default-src 'self'" in policy
    assert "x-frame-options" not in page.headers
    for path in ("/", "/inquiries", "/embed/", "/embed.html"):
        head = httpx.get(own.url + path).headers
        assert (head["x-frame-options"], "frame-ancestors 'none'" in head["content-security-policy"]) == ("DENY", True)
    # Where nobody is named there is no such page, and no visit.
    assert httpx.get(f"{stage.url}/embed").status_code == 404
    with Harquel(stage.url, stage.token) as client, pytest.raises(HarquelError, match="begins no visits"):
        client.send(begin_visit("one"))
