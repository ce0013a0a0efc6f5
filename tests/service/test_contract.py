"""Every call of the contract (docs/design.md §6) that this version has, with the scope it needs."""

from __future__ import annotations

import json
from collections.abc import Callable
from importlib import resources
from typing import Any

import httpx
import jsonschema
import pytest

from harquel.client import Forbidden, Harquel, HarquelError, NotFound, describing
from harquel.contract import Token
from harquel.demo.stage import Stage

CALLS = {
    "me": {"get"},
    "visits": {"post"},
    "session": {"post", "delete"},
    "inquiries": {"get", "post"},
    "inquiries/{key}": {"get"},
    "inquiries/{key}/cancel": {"post"},
    "inquiries/{key}/chart": {"get"},
    "inquiries/{key}/events": {"get"},
    "inquiries/{key}/file": {"get"},
    "inquiries/{key}/keep": {"post"},
    "inquiries/{key}/release": {"post"},
    "inquiries/{key}/shown": {"get"},
    "inquiries/{key}/shown/picture": {"get"},
    "inquiries/{key}/casebooks": {"post"},
    "inquiries/{key}/open-links": {"post"},
    "casebooks/{casebook}/open-links": {"post"},
    "open-links": {"get"},
    "open-links/{link}": {"delete"},
    "casebooks": {"get", "post"},
    "casebooks/{casebook}": {"get", "patch", "delete"},
    "casebooks/{casebook}/answers": {"post"},
    "casebooks/{casebook}/answers/{name}/picture": {"get"},
    "casebooks/{casebook}/runs": {"post"},
    "casebooks/{casebook}/file": {"get"},
    "casebooks/{casebook}/sendings": {"post"},
    "casebooks/{casebook}/versions": {"get"},
    "casebooks/{casebook}/versions/{version}": {"get", "post"},
    "models": {"get"},
    "models/{model}/check": {"post"},
    "sendings": {"get"},
    "watches": {"get"},
    "watches/{watch}": {"get", "patch", "delete"},
    "watches/{watch}/runs": {"post"},
    "inquiries/{key}/watches": {"post"},
    "chats": {"get"},
    "chats/links": {"get"},
    "chats/links/{link}": {"delete"},
    "chats/{chat}/codes": {"post"},
    "sendings/{sending}/again": {"post"},
    "inquiries/{key}/sendings": {"post"},
    "usage": {"get"},
    "configuration/reload": {"post"},
    "standstill": {"get", "put"},
    "sources": {"get", "post"},
    "sources/{name}": {"get", "patch", "delete"},
    "sources/{name}/check": {"post"},
    "sources/{name}/account": {"post"},
    "sources/{name}/catalog": {"get"},
    "sources/{name}/catalog/versions": {"get"},
    "sources/{name}/catalog/diff": {"get"},
    "sources/{name}/catalog/coverage": {"get"},
    "sources/{name}/tables/{table}": {"get", "patch"},
    "sources/{name}/scans": {"get", "post"},
    "sources/{name}/scans/{scan_id}": {"get", "delete"},
    "sources/{name}/notes": {"get", "put"},
    "sources/{name}/notes/history": {"get"},
    "sources/{name}/policy": {"get", "put"},
    "sources/{name}/policy/history": {"get"},
    "sources/{name}/policy/explain": {"post"},
    "sources/{name}/policy/check": {"post"},
    "sources/{name}/examples": {"get", "post"},
    "sources/{name}/examples/text": {"get", "post"},
    "sources/{name}/examples/check": {"post"},
    "sources/{name}/examples/{example_id}": {"patch", "delete"},
    "passwords/rotation": {"post"},
    "sources/{name}/reviews": {"post"},
    "tokens": {"get", "post"},
    "tokens/{token_id}": {"delete"},
    "ledger": {"get"},
    "ledger/verification": {"get"},
    "ledger/keys": {"get", "post"},
    "ledger/seals": {"post"},
}
NEEDS: dict[str, Callable[[Harquel], object]] = {
    "ask": lambda c: c.ask("How many vessels are there?", "ferries"),
    "release": lambda c: c.release("none-such", True),
    "audit": lambda c: c.verify_ledger(),
    "admin": lambda c: c.tokens(),
    "steward": lambda c: c.send(describing.check("ferries")),
}


@pytest.fixture(scope="module")
def document(stage: Stage) -> dict[str, dict[str, dict[str, object]]]:
    headers = {"Authorization": f"Bearer {stage.token}"}
    found: dict[str, dict[str, dict[str, object]]] = httpx.get(
        f"{stage.url}/api/v1/openapi.json", headers=headers
    ).json()
    return found


def test_the_document_lists_exactly_these_calls(document: dict[str, dict[str, dict[str, object]]]) -> None:
    listed = {path.removeprefix("/api/v1/"): set(ways) for path, ways in document["paths"].items()}
    assert listed == CALLS


def test_every_call_says_what_it_does_and_has_a_name_of_its_own(
    document: dict[str, dict[str, dict[str, object]]],
) -> None:
    names = []
    for ways in document["paths"].values():
        for call in ways.values():
            assert isinstance(call, dict)
            assert call["description"]
            names.append(call["operationId"])
    assert len(set(names)) == len(names)


def test_the_document_is_valid_and_tells_of_errors_streams_and_repetitions(document: dict[str, Any]) -> None:
    wanted = resources.files("drf_spectacular.validation") / "openapi_3_1_schema.json"
    jsonschema.validate(document, json.loads(wanted.read_text("utf-8")))
    for path, ways in document["paths"].items():
        for call in ways.values():
            assert "application/problem+json" in call["responses"]["default"]["content"], path
            assert all(len(way_in) == 1 for way_in in call["security"]), path
    stream = document["paths"]["/api/v1/inquiries/{key}/events"]["get"]
    assert "text/event-stream" in stream["responses"]["200"]["content"]
    for path in ("/api/v1/inquiries", "/api/v1/tokens"):
        post = document["paths"][path]["post"]
        assert "Idempotency-Key" in {p["name"] for p in post["parameters"]}


def test_every_property_has_a_sentence(document: dict[str, Any]) -> None:
    schemas = document["components"]["schemas"]
    assert len(schemas) > 60
    bare = [
        f"{n}.{f}" for n, s in schemas.items() for f, p in s.get("properties", {}).items() if "description" not in p
    ]
    assert bare == []


def test_the_document_says_how_to_sign_in(document: dict[str, dict[str, dict[str, object]]]) -> None:
    assert {"bearer", "session"} <= set(document["components"]["securitySchemes"])


@pytest.fixture(scope="module")
def secrets(stage: Stage) -> dict[str, str]:
    """One token for each scope, and one that has none but steward."""
    with Harquel(stage.url, stage.token) as admin:
        return {
            scope: admin.create_token(f"only {scope}", "Cilla Gannel", ["ferries"], [scope]).secret for scope in NEEDS
        }


@pytest.mark.parametrize("needed", NEEDS)
@pytest.mark.parametrize("held", [*NEEDS])
def test_a_scope_opens_its_own_calls_and_no_others(
    needed: str, held: str, stage: Stage, secrets: dict[str, str]
) -> None:
    with Harquel(stage.url, secrets[held]) as client:
        if needed == held:
            if needed == "release":
                with pytest.raises(NotFound):
                    NEEDS[needed](client)
                return
            NEEDS[needed](client)
            return
        with pytest.raises(Forbidden) as caught:
            NEEDS[needed](client)
        assert needed in str(caught.value)
        assert caught.value.hint


def test_no_scope_sees_secrets_or_other_sources(stage: Stage, secrets: dict[str, str]) -> None:
    with Harquel(stage.url, secrets["admin"]) as admin:
        tokens = admin.tokens()
        assert {type(t) for t in tokens} == {Token}
        assert not any("secret" in t.model_dump() for t in tokens)
    with Harquel(stage.url, secrets["ask"]) as client:
        for call in (
            lambda: client.source("rough"),
            lambda: client.catalog("rough"),
            lambda: client.review("rough", "x"),
        ):
            with pytest.raises(HarquelError, match="no source 'rough'"):
                call()


def test_a_token_that_makes_no_sense_is_not_made(stage: Stage) -> None:
    with Harquel(stage.url, stage.token) as admin:
        for name, person, scopes in (("", "p", ["ask"]), ("n", "", ["ask"]), ("n", "p", ["king"]), ("n" * 81, "p", [])):
            with pytest.raises(HarquelError) as caught:
                admin.create_token(name, person, ["*"], scopes)
            assert caught.value.errors
        with pytest.raises(HarquelError, match="no token '99999'"):
            admin.revoke_token(99999)
