"""The contract over real sockets: calls, errors, streams, sessions."""

from __future__ import annotations

import io
import json
import time
import uuid
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import httpx
import jsonschema
import openpyxl
import pytest

from harquel.client import Harquel, HarquelError
from harquel.contract import Inquiry
from harquel.demo.stage import Stage

QUESTION = "How many sailings were cancelled in August 2026?"


@pytest.fixture
def http(stage: Stage) -> Iterator[httpx.Client]:
    headers = {"Authorization": f"Bearer {stage.token}"}
    with httpx.Client(base_url=f"{stage.url}/api/v1/", headers=headers, timeout=30) as client:
        yield client


def asked(http: httpx.Client, **more: Any) -> httpx.Response:
    return http.post("inquiries", json={"question": QUESTION, "source": "ferries", "wait_s": 20, **more})


def test_an_inquiry_is_as_in_the_contract(http: httpx.Client) -> None:
    response = asked(http)
    assert response.status_code == 201
    body = response.json()
    assert set(body) == set(Inquiry.model_fields)
    assert (body["state"], body["outcome"], body["trust"]) == ("ended", "answered", "clear")
    assert body["answer"]["table"]["rows"] == [[12]]
    assert body["attempts"][0]["rulings"][0]["policy_line"]
    assert body["timings"]["own_ms"] > 0
    assert response.headers["location"] == f"/api/v1/inquiries/{body['id']}"
    assert http.get(f"inquiries/{body['id']}").json() == body


def test_the_openapi_document_describes_what_is_sent(http: httpx.Client) -> None:
    document = http.get("openapi.json").json()
    assert document["openapi"].startswith("3.1")
    schema = {"$ref": "#/components/schemas/Inquiry", "components": document["components"]}
    jsonschema.validate(asked(http).json(), schema)
    paths = set(document["paths"])
    assert {"/api/v1/inquiries", "/api/v1/sources/{name}/reviews", "/api/v1/ledger/verification"} <= paths


JSON = {"content-type": "application/json"}
PROBLEMS: dict[str, tuple[dict[str, Any], int, str]] = {
    "an empty question": ({"json": {"question": "  "}}, 422, "empty-question"),
    "a question far too long": ({"json": {"question": "x" * 20_000}}, 422, "invalid-request"),
    "an unknown source": ({"json": {"question": "x", "source": "nowhere"}}, 404, "unknown-source"),
    "a misspelt field": ({"json": {"question": "x", "sorce": "ferries"}}, 422, "invalid-request"),
    "a wait beyond the limit": ({"json": {"question": "x", "wait_s": 500}}, 422, "invalid-request"),
    "malformed JSON": ({"content": b"{", "headers": {"content-type": "application/json"}}, 400, "malformed-request"),
    "JSON nested without end": (
        {"content": b"[" * 100_000, "headers": JSON}, 400, "malformed-request"),
    "half a character": (
        {"content": b'{"question": "\\ud800"}', "headers": JSON}, 422, "invalid-request"),
    "no JSON": ({"content": b"x", "headers": {"content-type": "text/plain"}}, 415, "unsupported-media-type"),
    "a list": ({"json": []}, 422, "invalid-request"),
    "an unknown inquiry to follow": (
        {"json": {"question": "x", "source": "ferries", "follows": "gone"}}, 404, "unknown-inquiry"),
    "a choice of nothing": ({"json": {"source": "ferries", "choice": "sailing"}}, 422, "choice-of-nothing"),
    "a finding that is none": (
        {"json": {"question": "x", "source": "ferries", "silence": ["all"]}}, 422, "unknown-finding"),
}  # fmt: skip


@pytest.mark.parametrize("name", PROBLEMS)
def test_bad_input_is_a_problem_that_says_what_to_do(name: str, http: httpx.Client) -> None:
    sent, status, kind = PROBLEMS[name]
    response = http.post("inquiries", **sent)
    assert response.headers["content-type"] == "application/problem+json"
    problem = response.json()
    assert (response.status_code, problem["status"], problem["type"]) == (status, status, f"/problems/{kind}")
    assert problem["title"].endswith(".")
    assert problem["hint"]


@pytest.mark.parametrize("name", PROBLEMS)
def test_a_problem_is_told_in_the_language_of_whoever_called(name: str, http: httpx.Client) -> None:
    sent, *_ = PROBLEMS[name]
    told = [
        http.post("inquiries", **{**sent, "headers": {**sent.get("headers", {}), "accept-language": wished}}).json()
        for wished in ("en", "de-AT;q=0.8, nl", "nl, *;q=0.1", "x" * 5_000, "de;q=" + "9" * 100)
    ]
    assert told[2] == told[3] == told[4] == told[0]
    assert told[1]["type"] == told[0]["type"]
    if name not in FROM_THE_FRAMEWORK:
        assert told[1]["title"] != told[0]["title"]
    assert told[1]["hint"] != told[0]["hint"]


FROM_THE_FRAMEWORK = {"half a character", "a list", "no JSON"}
"""What only programs come to see."""


@pytest.mark.parametrize("path", ["me", "inquiries", "sources", "tokens", "ledger", "inquiries/x/events"])
@pytest.mark.parametrize("token", [None, "wrong"])
def test_without_a_known_token_everything_is_401(path: str, token: str | None, stage: Stage) -> None:
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    response = httpx.get(f"{stage.url}/api/v1/{path}", headers=headers)
    assert (response.status_code, response.headers["www-authenticate"]) == (401, "Bearer")
    assert response.json()["type"] == "/problems/not-authenticated"


def test_unknown_paths_and_methods_are_problems(http: httpx.Client) -> None:
    for method in ("GET", "POST", "PUT", "DELETE"):
        assert http.request(method, "nowhere").json()["type"] == "/problems/not-found"
    assert http.put("inquiries", json={}).json()["type"] == "/problems/method-not-allowed"
    assert http.get("inquiries/none").json()["type"] == "/problems/unknown-inquiry"


def test_the_stream_arrives_piece_by_piece_and_can_be_resumed(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path / "slow", pace_s=1.0) as slow:
        headers = {"Authorization": f"Bearer {slow.token}"}
        with httpx.Client(base_url=f"{slow.url}/api/v1/", headers=headers, timeout=30) as http:
            key = asked(http, wait_s=0).json()["id"]
            times, numbers, kinds = [], [], []
            with http.stream("GET", f"inquiries/{key}/events") as response:
                assert response.headers["content-type"] == "text/event-stream"
                for line in response.iter_lines():
                    if line.startswith("event: "):
                        kinds.append(line[7:])
                        times.append(time.monotonic())
                    elif line.startswith("id: "):
                        numbers.append(int(line[4:]))
            assert times[-1] - times[0] > 0.6
            assert kinds.count("piece") > 3
            durable = [k for k in kinds if k != "piece"]
            assert durable[0] == "accepted"
            assert durable[-1] == "ended"
            again = http.get(f"inquiries/{key}/events", headers={"last-event-id": str(numbers[2])}).text
            assert [int(line[4:]) for line in again.splitlines() if line.startswith("id: ")] == numbers[3:]


def test_beyond_the_queue_it_is_429_with_a_time_to_wait(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    tight = {"HARQUEL__SERVICE__ASKERS": "1", "HARQUEL__SERVICE__WAITING": "1"}
    with new_stage(tmp_path / "tight", pace_s=1.5, environment=tight) as small:
        headers = {"Authorization": f"Bearer {small.token}"}
        with httpx.Client(base_url=f"{small.url}/api/v1/", headers=headers, timeout=30) as http:
            with ThreadPoolExecutor(6) as pool:
                responses = list(pool.map(lambda _: asked(http, wait_s=0), range(6)))
            refused = [r for r in responses if r.status_code == 429]
            taken = [r.json()["id"] for r in responses if r.status_code == 201]
            assert (len(taken), len(refused)) == (2, 4)
            assert int(refused[0].headers["retry-after"]) >= 1
            assert refused[0].json()["type"] == "/problems/too-busy"
            for key in taken:
                http.get(f"inquiries/{key}/events")
                assert http.get(f"inquiries/{key}").json()["outcome"] == "answered"
            assert asked(http).status_code == 201


def test_the_same_idempotency_key_creates_once(http: httpx.Client) -> None:
    headers = {"Idempotency-Key": uuid.uuid4().hex}
    body = {"question": QUESTION, "source": "ferries"}
    first, second = (http.post("inquiries", json=body, headers=headers) for _ in range(2))
    assert first.json()["id"] == second.json()["id"]
    other = http.post("inquiries", json={**body, "wait_s": 1}, headers=headers)
    assert (other.status_code, other.json()["type"]) == (422, "/problems/key-reused")


def test_as_of_moves_the_instant_that_the_question_is_about(http: httpx.Client) -> None:
    body = asked(http, question="How many sailings were cancelled last month?", as_of="2026-03-10T00:00:00Z").json()
    assert body["as_of"].startswith("2026-03-10")
    assert "'2026-02-01'" in body["answer"]["sql"]


def test_review_says_what_would_happen_and_runs_nothing(http: httpx.Client) -> None:
    good = http.post("sources/ferries/reviews", json={"sql": "SELECT name FROM harbour"}).json()
    assert (good["verdict"], good["rewritten_sql"]) == ("run", "SELECT name FROM harbour LIMIT 1001")
    assert good["dry_run"]["steps"]
    bad = http.post("sources/ferries/reviews", json={"sql": "SELECT email FROM customer"}).json()
    assert (bad["verdict"], bad["findings"][0]["rule"]) == ("refuse", "withheld-column")


def test_the_catalog_holds_nothing_that_is_withheld(http: httpx.Client) -> None:
    catalog = http.get("sources/ferries/catalog").text
    assert "total_cents" in catalog
    assert "email" not in catalog


def test_people_see_their_own_inquiries_and_do_what_their_scopes_allow(stage: Stage, http: httpx.Client) -> None:
    with Harquel(stage.url, stage.token) as admin:
        made = admin.create_token("quay", "Bram Gannel", ["ferries"], ["ask"])
        theirs = asked(http).json()["id"]
        with Harquel(stage.url, made.secret) as bram:
            assert [s.name for s in bram.sources()] == ["ferries"]
            own = bram.ask(QUESTION)
            assert own.outcome == "answered"
            assert [line.id for line in bram.inquiries().items] == [own.id]
            for forbidden in (lambda: bram.inquiry(theirs), lambda: bram.ask("x", "rough"), bram.tokens, bram.ledger):
                with pytest.raises(HarquelError):
                    forbidden()
        assert {theirs, own.id} <= {line.id for line in admin.inquiries(limit=200).items}
        admin.revoke_token(made.id)
        with Harquel(stage.url, made.secret) as bram, pytest.raises(HarquelError, match="revoked"):
            bram.me()
    secrets = [p for p in stage.folder.rglob("*") if p.is_file() and made.secret.encode() in p.read_bytes()]
    assert secrets == []


def test_pages_follow_each_other_without_gaps(http: httpx.Client) -> None:
    for _ in range(3):
        asked(http)
    everything = [e["seq"] for e in http.get("ledger", params={"limit": 30}).json()["items"]]
    first = http.get("ledger", params={"limit": 10}).json()
    second = http.get("ledger", params={"limit": 10, "cursor": first["next"]}).json()
    assert [e["seq"] for e in first["items"] + second["items"]] == everything[:20]
    assert http.get("ledger", params={"limit": 9999}).status_code == 422


def test_a_console_session_needs_the_csrf_token_to_write(stage: Stage) -> None:
    with httpx.Client(base_url=f"{stage.url}/api/v1/") as browser:
        signed = browser.post("session", json={"token": stage.token})
        cookie = next(c for c in signed.headers.get_list("set-cookie") if c.startswith("harquel_session"))
        assert "HttpOnly" in cookie
        assert "SameSite=Strict" in cookie
        assert browser.get("me").json()["person"] == "Ada Brinewell"
        body = {"question": QUESTION, "source": "ferries"}
        assert browser.post("inquiries", json=body).status_code == 403
        headers = {"X-CSRFToken": browser.cookies["harquel_csrf"]}
        assert browser.post("inquiries", json=body, headers=headers).status_code == 201
        browser.delete("session", headers=headers)
        assert browser.get("me").status_code == 401
        assert browser.post("session", json={"token": "wrong"}).status_code == 401


def test_a_running_inquiry_is_cancelled_within_a_second(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path / "cancel", pace_s=8) as slow, Harquel(slow.url, slow.token) as client:
        started = client.ask(QUESTION, "ferries", wait_s=0)
        time.sleep(0.4)
        before = time.monotonic()
        client.cancel(started.id)
        ended = [e for e in client.events(started.id) if e.kind == "ended"]
        assert time.monotonic() - before < 6
        assert ended[0].facts["outcome"] == "cancelled"
        assert client.inquiry(started.id).outcome == "cancelled"


def test_health_metrics_and_the_console_need_no_token(stage: Stage) -> None:
    assert httpx.get(f"{stage.url}/healthz").json() == {"status": "ok"}
    assert httpx.get(f"{stage.url}/readyz").json()["sources"] == 3
    assert "harquel_inquiries_total" in httpx.get(f"{stage.url}/metrics").text
    page = httpx.get(f"{stage.url}/inquiries/anything")
    assert "<title>Harquel</title>" in page.text
    assert "default-src 'self'" in page.headers["content-security-policy"]


def test_a_foreign_host_header_is_refused(stage: Stage) -> None:
    log = stage.folder / "serve.log"
    known = len(log.read_text())
    for name in ("evil.example", "x" * 3000, "two words", "evil.example:99999", "127.0.0.1.evil.example"):
        response = httpx.get(f"{stage.url}/api/v1/me", headers={"host": name})
        assert (response.status_code, response.json()["type"]) == (400, "/problems/foreign-host")
        assert "service.hosts" in response.json()["hint"]
    # Anybody can send them: the log says it once, in a line.
    said = log.read_text()[known:].splitlines()
    assert [json.loads(line)["host"] for line in said] == ["evil.example"]


def test_the_ledger_tells_the_whole_story_of_an_inquiry(http: httpx.Client) -> None:
    body = asked(http, source="rough").json()
    entries = http.get("ledger", params={"inquiry": body["id"]}).json()["items"][::-1]
    kinds = [e["kind"] for e in entries]
    assert kinds == (
        "accepted briefed prompted prompted replied replied ruled found prompted replied ruled found ruled found "
        "planned ruled planned ruled ran ran compared ended".split()
    )
    prompt = json.loads(entries[2]["texts"]["prompt"])
    assert [m["role"] for m in prompt] == ["system", "user"]
    assert QUESTION in prompt[1]["content"]
    assert [e["texts"]["rows"] for e in entries if e["kind"] == "ran"] == ["[[12]]"] * 2
    assert http.get("ledger/verification").json()["intact"]


def test_filters_that_nothing_can_fit_are_said_with_the_nearest(http: httpx.Client) -> None:
    for name, wrong, near in (
        ("outcome", "answerd", "answered"),
        ("state", "waiting", "Known"),
        ("source", "fery", ""),
    ):
        found = http.get("inquiries", params={name: wrong})
        assert (found.status_code, found.json()["type"]) == (422, f"/problems/unknown-{name}")
        assert near in found.json()["hint"]
    assert (
        http.get("inquiries", params={"outcome": "refused", "state": "ended", "source": "ferries"}).status_code == 200
    )


def test_a_repetition_is_marked_and_a_bearer_gets_no_cookie(http: httpx.Client, stage: Stage) -> None:
    headers = {"Idempotency-Key": uuid.uuid4().hex}
    body = {"question": QUESTION, "source": "ferries"}
    first, second = (http.post("inquiries", json=body, headers=headers).headers for _ in range(2))
    assert ("harquel-repeated" in first, second["harquel-repeated"]) == (False, "true")
    assert "set-cookie" not in http.get("me").headers
    with httpx.Client(base_url=f"{stage.url}/api/v1/") as browser:
        assert "set-cookie" in browser.post("session", json={"token": stage.token}).headers


def test_whoever_guesses_tokens_is_made_to_wait(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path / "guess", environment={"HARQUEL__SERVICE__BEHIND_TLS": "true"}) as own:
        secure = {"X-Forwarded-Proto": "https"}
        with httpx.Client(base_url=f"{own.url}/api/v1/", headers=secure) as stranger:
            tries = [stranger.post("session", json={"token": f"guess-{n}"}) for n in range(12)]
            assert [t.status_code for t in tries] == [401] * 10 + [429] * 2
            assert 0 < int(tries[-1].headers["retry-after"]) <= 61
            assert stranger.post("session", json={"token": own.token}).status_code == 429
            # Behind a proxy that ends TLS, cookies and pages are for https alone.
            elsewhere = {"X-Forwarded-For": "192.0.2.7", **secure}
            signed_in = stranger.post("session", json={"token": own.token}, headers=elsewhere)
            assert signed_in.status_code == 200
            assert all("Secure" in c for c in signed_in.headers.get_list("set-cookie"))
            assert "max-age=" in signed_in.headers["strict-transport-security"]
            assert "max-age=" in httpx.get(own.url, headers=secure).headers["strict-transport-security"]
        assert httpx.get(f"{own.url}/api/v1/inquiries/any/events").status_code == 403
        plain = httpx.get(f"{own.url}/api/v1/me")
        assert (plain.status_code, plain.headers["location"][:8]) == (301, "https://")
        assert httpx.get(f"{own.url}/healthz").status_code == 200


def test_an_answer_is_taken_away_as_a_file_by_whoever_may_read_it(http: httpx.Client) -> None:
    made = asked(http).json()
    file = http.get(f"inquiries/{made['id']}/file", params={"form": "xlsx"})
    assert (file.status_code, file.headers["x-content-type-options"]) == (200, "nosniff")
    assert file.headers["content-disposition"] == f'attachment; filename="ferries-{made["id"]}.xlsx"'
    assert openpyxl.load_workbook(io.BytesIO(file.content))["Result"]["A2"].value == 12
    page = http.get(f"inquiries/{made['id']}/file", params={"form": "html"})
    assert made["answer"]["text"] in page.text
    assert http.get(f"inquiries/{made['id']}/file").text.split() == ["\ufeffsailing_count", "12"]
    assert http.get(f"inquiries/{made['id']}/file", params={"form": "pdf"}).status_code == 422
    assert http.get("inquiries/nothing/file").status_code == 404
    refused = asked(http, question="Delete every booking").json()
    none = http.get(f"inquiries/{refused['id']}/file")
    assert (none.status_code, none.json()["type"]) == (409, "/problems/no-answer")
