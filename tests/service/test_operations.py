"""Who may do what: every address has an operation, and every operation asks of every caller what is written down."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from harquel.client import Harquel
from harquel.core.curation.yaml_text import read_yaml
from harquel.demo.stage import Stage
from tests.conftest import DATA
from tests.forked import run_harquel
from tests.service.test_access import HTTP, Caller

RULES: dict[str, tuple[str, str, str, str]] = read_yaml((DATA / "operations.yaml").read_text("utf-8"))
SCOPES = ("ask", "release", "steward", "audit", "admin")
# Who calls: scopes and sources. The last two have a token that counts no more, and none.
CALLERS = {
    **{s: (s, "*") for s in SCOPES}, "all of them": (" ".join(SCOPES), "*"),
    "all of them, of another source": (" ".join(SCOPES), "pair"), "revoked": ("", ""), "nobody": ("", ""),
}  # fmt: skip
ODD = {"nonsense": True}
"""A body that no operation takes: whoever may is told that it does not fit, and nothing is done."""


@pytest.fixture(scope="module")
def found() -> dict[str, list[dict[str, Any]]]:
    said = run_harquel("operations", "--json")
    assert said.returncode == 0, said.stderr
    listed: dict[str, list[dict[str, Any]]] = read_yaml(said.stdout)
    return listed


def test_every_address_has_an_operation_or_a_reason(found: dict[str, list[dict[str, Any]]]) -> None:
    assert len(found["operations"]) > 45
    assert [o["operation"] for o in found["operations"] if not o["http"]] == []
    assert [p["address"] for p in found["without"] if not p["why"]] == []


def test_the_rules_are_those_that_are_written_down(found: dict[str, list[dict[str, Any]]]) -> None:
    now = {
        o["operation"]: [o["scope"] or "any", o["about"] or "nothing", " ".join(o["entries"]), o["again"]]
        for o in found["operations"]
    }
    assert now == {name: list(rule) for name, rule in RULES.items()}


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("operations")) as running:
        yield running


@pytest.fixture(scope="module")
def places(own: Stage) -> dict[str, str]:
    """What stands in addresses: things of the source `ferries`, and an inquiry of somebody else."""
    other = Caller(own, "Ada Brinewell", "ask steward")
    scan = other.send("GET", "sources/ferries/scans").json()[0]["id"]
    return {
        "name": "ferries",
        "key": other.ask(),
        "table": "vessel",
        "model": "main",
        "scan_id": str(scan),
        "sending": "none",
        "chat": "town",
        "link": "0",
        "watch": "none",
        "casebook": "none",
        "version": "1",
    }


def _wanted(rule: tuple[str, str, str, str], scopes: str, sources: str) -> set[int] | None:
    """The statuses that are right; None: whatever does not say that the caller may not."""
    if rule[0] not in ("any", *scopes.split()):
        return {403}
    if rule[1].startswith("source") and sources != "*":
        return {404}
    if rule[1].startswith(("sending", "link of a chat", "watch", "casebook", "open link")):
        return {404}
    if rule[1] == "inquiry of one's sources" and sources != "*":
        return {404}
    # That of somebody else, which has ended.
    if rule[1] == "inquiry" and ("audit" not in scopes or sources != "*"):
        return {404}
    return None


@pytest.mark.parametrize("caller", CALLERS)
def test_every_operation_asks_of_every_caller_what_is_written_down(
    caller: str, own: Stage, places: dict[str, str], found: dict[str, list[dict[str, Any]]]
) -> None:
    scopes, sources = CALLERS[caller]
    somebody = Caller(own, f"Bo {caller}", scopes or "ask", sources or "*")
    steward = Caller(own, "Cass Wren", "steward")
    # What may be thrown away.
    gone = {
        "token_id": str(steward.token_id),
        "example_id": str(steward.send("GET", "sources/ferries/examples").json()[0]["id"]),
    }
    with Harquel(own.url, own.token) as admin:
        if caller == "revoked":
            admin.revoke_token(somebody.token_id)
        if caller == "nobody":
            somebody.headers = {}
        for row in found["operations"]:
            name, rule = row["operation"], RULES[row["operation"]]
            before = admin.ledger(limit=1).items[0].seq if caller == "all of them" else None
            for http in row["http"]:
                method, path = http.split(" ")
                path = re.sub(r"\{(\w+)\}", lambda m: {**places, **gone}[m[1]], path)
                code = _code(somebody, method, path)
                if not scopes:
                    assert code == 401, (name, code)
                    continue
                wanted = _wanted(rule, scopes, sources)
                assert code in wanted if wanted else code not in (401, 404, 500), (name, code)
                # Some are refused further on by what their rule says; those are tried by themselves elsewhere.
                assert wanted is not None or code != 403 or row["rule"], (name, code)
            if before is not None:
                left = {e.kind for e in admin.ledger(limit=20).items if e.seq > before and e.who == f"Bo {caller}"}
                assert left <= set(rule[2].split()), (name, left)


def _code(somebody: Caller, method: str, path: str) -> int:
    if path.endswith("/events"):
        with HTTP.stream(method, somebody.base + path, headers=somebody.headers) as said:
            return said.status_code
    return somebody.code(method, path, ODD if method in ("POST", "PUT", "PATCH") else None)


FORGETFUL = """
import json, types
from harquel.service import serving
prepare = serving.prepare_django
def forget(config):
    prepare(config)
    from django.urls import path
    from rest_framework.views import APIView
    import harquel.service.urls as table
    from harquel.service.access.models import Token
    from harquel.service.access.permissions import OperationsOnly
    table.urlpatterns.append(path("api/v1/forgotten", APIView.as_view()))
    print(OperationsOnly().has_permission(types.SimpleNamespace(user=Token()), APIView()))
serving.prepare_django = forget
from harquel.service.commands import operations
print(json.dumps(operations()["without"]))
"""


def test_a_view_without_an_operation_is_closed_and_found() -> None:
    """As a hand that forgets would add one: to the URL table, past the registry."""
    said = subprocess.run([sys.executable, "-c", FORGETFUL], capture_output=True, text=True, timeout=60, check=True)
    let_in, without = said.stdout.splitlines()
    assert let_in == "False"
    assert "api/v1/forgotten" in {p["address"] for p in json.loads(without) if not p["why"]}


def test_no_method_is_there_that_no_operation_declares(own: Stage) -> None:
    asker = Caller(own, "Eda Sounding", "ask")
    for method, path in (("OPTIONS", "tokens"), ("TRACE", "me"), ("PUT", "inquiries"), ("HEAD", "ledger/seals")):
        assert asker.code(method, path) == 405, (method, path)
    # A HEAD asks as much as a GET.
    assert (asker.code("HEAD", "ledger"), asker.code("HEAD", "me")) == (403, 200)


def test_askers_learn_nothing_from_scans_versions_and_lines_of_what_they_may_not_see(own: Stage) -> None:
    asker, steward = Caller(own, "Eda Sounding", "ask"), Caller(own, "Cass Wren", "steward")
    seen, all_of_it = (c.send("GET", "sources/ferries/scans").json()[0] for c in (asker, steward))
    assert all_of_it["tables"] > 10
    assert (seen["tables"], seen["done"], seen["now"], seen["problem"]) == (0, 0, "", "")
    one, other = (c.send("GET", f"sources/ferries/scans/{seen['id']}").json() for c in (asker, steward))
    assert (one["tables"], other["tables"]) == (0, all_of_it["tables"])
