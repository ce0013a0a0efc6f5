"""Scope and source and person, for every call: own and others', this source and another, several scopes together."""

from __future__ import annotations

import atexit
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
import pytest

from harquel.client import Harquel, TokenRefused
from harquel.demo.stage import Stage

QUESTION = "How many vessels are there?"


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("access")) as running:
        yield running


HTTP = httpx.Client(timeout=60, verify=False)
"""One for all: loading what is believed of certificates takes longer than most calls."""
atexit.register(HTTP.close)


class Caller:
    """Somebody with a token of their own, over plain HTTP."""

    def __init__(self, own: Stage, person: str, scopes: str, sources: str = "*", **more: Any) -> None:
        with Harquel(own.url, own.token) as admin:
            made = admin.create_token(f"of {person}", person, sources.split(), scopes.split(), more.get("roles", []))
        self.token_id, self.person_id = made.id, made.person_id
        self.base, self.headers = f"{own.url}/api/v1/", {"Authorization": f"Bearer {made.secret}"}

    def send(self, method: str, path: str, body: Any = None) -> httpx.Response:
        return HTTP.request(method, self.base + path, json=body, headers=self.headers)

    def code(self, method: str, path: str, body: Any = None) -> int:
        return self.send(method, path, body).status_code

    def ask(self, source: str = "ferries", question: str = QUESTION) -> str:
        made = self.send("POST", "inquiries", {"source": source, "question": question, "wait_s": 60})
        assert made.status_code == 201, made.text
        return str(made.json()["id"])


@pytest.fixture(scope="module")
def inquiries(own: Stage) -> dict[str, str]:
    """Ended and held ones of two sources; whoever asked them is called Ada."""
    ada, trainee = Caller(own, "Ada Brinewell", "ask"), Caller(own, "Ada Brinewell", "ask", roles=["trainee"])
    return {
        "ferries": ada.ask(), "rough": ada.ask("rough"),
        "held ferries": trainee.ask(), "held rough": trainee.ask("rough"),
    }  # fmt: skip


# For each caller: what may be read, what may be cancelled, what may be turned down (held ones only).
OTHERS = {
    ("ask", "*"): ("", "", ""),
    ("steward admin", "*"): ("", "", ""),
    ("audit", "*"): ("ferries rough held-ferries held-rough", "", ""),
    ("audit", "ferries"): ("ferries held-ferries", "", ""),
    ("audit ask", "ferries"): ("ferries held-ferries", "", ""),
    ("release", "ferries"): ("held-ferries", "", "held-ferries"),
    ("release ask", "rough"): ("held-rough", "", "held-rough"),
    ("audit release", "rough"): ("rough held-rough", "", "held-rough"),
    ("audit release ask steward admin", "pair"): ("", "", ""),
}


@pytest.mark.parametrize(("scopes", "sources"), OTHERS)
def test_another_person_reaches_what_scope_and_source_allow(
    scopes: str, sources: str, own: Stage, inquiries: dict[str, str]
) -> None:
    caller = Caller(own, "Bo Quayle", scopes, sources)
    read, cancel, decide = ({t.replace("-", " ") for t in part.split()} for part in OTHERS[scopes, sources])
    listed = {i["id"] for i in caller.send("GET", "inquiries?limit=200").json()["items"]}
    for name, key in inquiries.items():
        seen = 200 if name in read else 404
        assert caller.code("GET", f"inquiries/{key}") == seen, name
        assert (key in listed) == (seen == 200), name
        if name.startswith("held"):
            stream = 200 if seen == 200 else 404
            assert caller.code("GET", f"inquiries/{key}/events") == stream, name
        assert (caller.code("POST", f"inquiries/{key}/cancel") == 202) == (name in cancel), name
        if name not in decide:
            assert caller.code("POST", f"inquiries/{key}/release", {"approve": True}) in (403, 404, 409), name


def test_nobody_releases_what_was_asked_in_their_own_name_however_it_is_written(
    own: Stage, inquiries: dict[str, str]
) -> None:
    for name in ("Ada Brinewell", "ADA BRINEWELL", "ada  brinewell", "Ａda Brinewell"):
        self_made = Caller(own, name, "ask release audit admin")
        assert self_made.code("POST", f"inquiries/{inquiries['held ferries']}/release", {"approve": True}) == 403, name
    assert len({Caller(own, n, "ask").person_id for n in ("Ada Brinewell", "aDA bRINEWELL")}) == 1


def test_a_token_of_one_source_reads_nothing_of_another_though_its_person_asked_it(
    own: Stage, inquiries: dict[str, str]
) -> None:
    narrow = Caller(own, "Ada Brinewell", "ask", "ferries")
    assert narrow.code("GET", f"inquiries/{inquiries['ferries']}") == 200
    assert narrow.code("GET", f"inquiries/{inquiries['rough']}") == 404


def test_a_steward_of_one_source_connects_no_other_and_renames_none(own: Stage) -> None:
    narrow = Caller(own, "Cass Wren", "ask steward", "ferries")
    again = {"name": "again", "engine": "sqlite", "path": "ferries.db"}
    assert narrow.code("POST", "sources", again) == 403
    assert narrow.code("GET", "sources/again") == 404
    assert narrow.code("PATCH", "sources/rough", {"enabled": False}) == 404


def test_a_revoked_token_hears_no_more_and_its_held_statement_does_not_run(own: Stage) -> None:
    trainee = Caller(own, "Dell Marrow", "ask", roles=["trainee"])
    key = trainee.ask()
    assert trainee.send("GET", f"inquiries/{key}").json()["state"] == "held"
    with Harquel(own.url, own.token) as admin:
        admin.revoke_token(trainee.token_id)
    assert trainee.code("GET", f"inquiries/{key}") == 401
    releaser = Caller(own, "Bo Quayle", "release")
    refused = releaser.send("POST", f"inquiries/{key}/release", {"approve": True})
    assert (refused.status_code, refused.json()["type"]) == (409, "/problems/token-ended")
    assert releaser.code("POST", f"inquiries/{key}/release", {"approve": False}) == 200


def test_a_stream_ends_with_its_token(own: Stage) -> None:
    asker = Caller(own, "Eda Sounding", "ask")
    made = asker.send("POST", "inquiries", {"source": "rough", "question": QUESTION}).json()["id"]
    with Harquel(own.url, own.token) as admin:
        admin.revoke_token(asker.token_id)
    started = time.monotonic()
    ended = threading.Event()

    def listen() -> None:
        asker.send("GET", f"inquiries/{made}/events")
        ended.set()

    threading.Thread(target=listen, daemon=True).start()
    assert ended.wait(20)
    assert time.monotonic() - started < 20


def test_a_token_comes_to_its_end(own: Stage) -> None:
    with Harquel(own.url, own.token) as admin:
        made = admin.create_token("short", "Eda Sounding", ["*"], ["ask"], days=1)
        assert made.expires_at is not None
        assert 0.9 < (made.expires_at - made.created_at).total_seconds() / 86_400 < 1.1
        assert admin.create_token("long", "Eda Sounding", ["*"], ["ask"], days=None).expires_at is None
        with Harquel(own.url, made.secret) as asker:
            assert asker.me().person == "Eda Sounding"
            with sqlite3.connect(own.folder / "records" / "records.db", timeout=20) as connection:
                past = "2020-01-01 00:00:00"
                connection.execute("UPDATE access_token SET expires_at = ? WHERE id = ?", (past, made.id))
            connection.close()
            with pytest.raises(TokenRefused):
                asker.me()


@pytest.mark.parametrize(
    "fields",
    [
        {"engine": "postgresql", "host": "127.0.0.1", "database": "x", "user": "y", "password": "file:/etc/hostname"},
        {"engine": "postgresql", "host": "127.0.0.1", "database": "x", "user": "y", "password": "env:PATH"},
        {"url": "env:HOME"},
        {"url": "file:records/session.key"},
        {"url": "sqlite:////etc/passwd"},
        {"url": "sqlite:///../../etc/passwd"},
        {"engine": "sqlite", "path": "/etc/passwd"},
        {"engine": "sqlite", "path": "folder/../../x.db"},
        {"url": "postgresql://a@127.0.0.1/x?tls=verify&ca=/etc/passwd"},
        {"engine": "postgresql", "host": "/var/run/postgresql", "database": "x", "user": "y"},
        {"engine": "postgresql", "host": "127.0.0.1", "database": "x", "user": "y", "ca": "/etc/passwd"},
    ],
)  # fmt: skip
def test_what_is_made_over_http_refers_to_nothing_of_this_machine(fields: dict[str, str], own: Stage) -> None:
    steward = Caller(own, "Cass Wren", "steward")
    said = steward.send("POST", "sources", {"name": "odd", **fields})
    assert (said.status_code, said.json()["type"]) == (403, "/problems/not-let-in"), said.text
    assert steward.code("GET", "sources/odd") == 404


def test_a_url_says_how_to_connect_and_what_is_not_known_is_turned_down(own: Stage) -> None:
    steward = Caller(own, "Cass Wren", "steward")
    made = steward.send("POST", "sources", {"name": "far", "url": "postgresql://a@127.0.0.1:1/x?tls=require"})
    assert made.status_code == 201, made.text
    assert steward.code("DELETE", "sources/far") == 200
    for url in ("postgresql://a@/x?host=/var/run", "postgresql://a@127.0.0.1/x?sslrootcert=/etc/passwd"):
        assert steward.code("POST", "sources", {"name": "odd", "url": url}) == 422, url


def test_askers_do_not_see_where_a_source_is(own: Stage) -> None:
    asker, steward = Caller(own, "Ada Brinewell", "ask"), Caller(own, "Cass Wren", "steward")
    assert asker.send("GET", "sources/ferries").json()["where"] == ""
    assert str(own.folder) in steward.send("GET", "sources/ferries").json()["where"]
    assert all(line["where"] == "" for line in asker.send("GET", "sources").json())


ODD = (
    ("GET", "inquiries?limit=²", None), ("GET", "inquiries?cursor=" + "9" * 5000, None),
    ("GET", "ledger?cursor=٣", None),
    ("GET", "ledger/verification?anchor=²:" + "0" * 64, None), ("GET", "sources/ferries/catalog/diff?old=²", None),
    ("POST", "inquiries", b'{"question": "\\ud800 vessels"}'), ("POST", "inquiries", b'{"question": "a\\u0000b"}'),
    ("POST", "inquiries", b'{"question": "x", "as_of": "0001-01-01T00:00:00+14:00"}'),
    ("POST", "inquiries", b'{"question": "x", "as_of": "9999-12-31T23:59:59-14:00"}'),
    ("POST", "inquiries", b'{"question": "x", "wait_s": 1e999}'),
    ("POST", "tokens", b'{"name": "n", "person": "p", "values": {"level": 1e999}}'),
    ("POST", "sources/ferries/reviews", b'{"sql": "SELECT \'\\udfff\'"}'), ("GET", "sources/a%00b", None),
    ("GET", "inquiries?source=%00", None), ("GET", "inquiries/%00/events", None),
)  # fmt: skip


@pytest.mark.parametrize(("method", "path", "body"), ODD, ids=range(len(ODD)))
def test_odd_values_are_answered_and_break_nothing(method: str, path: str, body: bytes | None, own: Stage) -> None:
    headers = {"Authorization": f"Bearer {own.token}", "Content-Type": "application/json"}
    said = httpx.request(method, f"{own.url}/api/v1/{path}", content=body, headers=headers, timeout=30, verify=False)
    assert 400 <= said.status_code < 500, (said.status_code, said.text[:300])


def test_an_ended_inquiry_closes_its_stream_whatever_was_seen_last(own: Stage, inquiries: dict[str, str]) -> None:
    headers = {"Authorization": f"Bearer {own.token}"}
    url = f"{own.url}/api/v1/inquiries/{inquiries['ferries']}/events?after=999999999"
    assert httpx.get(url, headers=headers, timeout=10).text == ""


def test_nothing_the_api_says_is_kept_on_the_way(own: Stage) -> None:
    said = httpx.get(f"{own.url}/api/v1/me", headers={"Authorization": f"Bearer {own.token}"})
    assert said.headers["cache-control"] == "no-store"
    assert said.headers["x-content-type-options"] == "nosniff"


def test_threads_that_serve_one_after_the_other_take_nobody_for_somebody_else(own: Stage) -> None:
    """Whose request it is lies in nothing that a thread keeps; neither does what went wrong in the one before."""
    people = [Caller(own, f"Person {number}", "ask", "ferries" if number % 2 else "*") for number in range(6)]
    shown = [{"ferries"} if number % 2 else {"ferries", "rough", "pair"} for number in range(6)]
    mine = [person.ask() for person in people]

    def once(number: int) -> bool:
        at, way = number % 6, number // 6 % 4
        if way == 0:
            return {s["name"] for s in people[at].send("GET", "sources").json()} == shown[at]
        if way == 1:
            return [i["id"] for i in people[at].send("GET", "inquiries").json()["items"]] == [mine[at]]
        if way == 2:
            return people[at].code("GET", f"inquiries/{mine[at - 1]}") == 404
        broken = HTTP.post(people[at].base + "inquiries", content=b"{", headers={"Authorization": "Bearer wrong"})
        return broken.status_code == 401

    with ThreadPoolExecutor(12) as many:
        assert all(many.map(once, range(240)))
