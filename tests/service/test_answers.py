"""What can be done with an answer once it is there: drawn, and come to again."""

from __future__ import annotations

import sqlite3
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

import httpx
import pytest

from harquel.client import Harquel, HarquelError, calls
from harquel.core.clock import utc_now
from harquel.demo.stage import Stage
from tests.outside import let

QUESTION = "How many sailings were cancelled in August 2026?"


@pytest.fixture
def http(stage: Stage) -> Iterator[httpx.Client]:
    headers = {"Authorization": f"Bearer {stage.token}"}
    with httpx.Client(base_url=f"{stage.url}/api/v1/", headers=headers, timeout=30) as client:
        yield client


def asked(http: httpx.Client, question: str = QUESTION) -> dict[str, Any]:
    made: dict[str, Any] = http.post("inquiries", json={"question": question, "source": "ferries", "wait_s": 20}).json()
    return made


def test_a_chart_is_drawn_from_kept_rows_for_whoever_may_read_them(http: httpx.Client) -> None:
    made = asked(http, "Which five routes earned most this year?")
    assert (made["answer"]["chart"]["kind"], made["answer"]["chart"]["figures"]) == ("bars", [1])
    where = f"inquiries/{made['id']}/chart"
    drawing = http.get(where, params={"say": "as columns, only the top 3", "dark": "1"}).json()
    assert (drawing["chart"]["kind"], drawing["chart"]["top"], drawing["note"]) == ("columns", 3, "")
    assert [v["x"] for v in drawing["spec"]["data"]["values"]] == [
        row[0] for row in made["answer"]["table"]["rows"][:3]
    ]
    assert "is not understood" in http.get(where, params={"say": "with sparkles"}).json()["note"]
    for wrong in ({"kind": "cake"}, {"top": "0"}, {"top": "101"}, {"say": "x" * 201}, {"colour": "-1"}):
        assert http.get(where, params=wrong).status_code == 422
    image = http.get(f"inquiries/{made['id']}/file", params={"form": "png", "kind": "columns"})
    assert (image.headers["content-type"], image.content[:4]) == ("image/png", b"\x89PNG")
    page = http.get(f"inquiries/{made['id']}/file", params={"form": "html", "top": "2"}).text
    assert "<svg" in page
    assert "and 3 more that are not drawn" in page
    single = asked(http)
    # Our own row limit is not on show; one that was asked for is.
    assert single["answer"]["sql"] == f"{single['answer']['sql_shown']} LIMIT 1001"
    assert (made["answer"]["sql"][-8:], made["answer"]["sql_shown"]) == (" LIMIT 5", "")
    nothing = http.get(f"inquiries/{single['id']}/chart").json()
    assert (nothing["chart"], nothing["spec"]) == (None, None)
    refused = http.get(f"inquiries/{single['id']}/file", params={"form": "svg"})
    assert (refused.status_code, refused.json()["type"]) == (409, "/problems/no-picture")
    assert http.get("inquiries/nothing/chart").status_code == 404


def test_an_old_answer_again_says_what_is_different_without_a_model(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with new_stage(tmp_path) as own, Harquel(own.url, own.token) as client:
        earned = client.ask("Which five routes earned most this year?", "ferries")
        assert earned.answer is not None
        same = client.again(earned.id)
        assert same.answer is not None
        assert same.answer.since is not None
        assert (same.trust, same.answer.since.same, same.follows) == ("clear", True, earned.id)
        assert same.answer.text == f"{earned.answer.text} {same.answer.since.said}"
        assert same.answer.chart == earned.answer.chart
        assert [e.kind for e in client.events(same.id)] == ["accepted", "ruled", "planned", "ruled", "ran", "ended"]
        assert (same.usage.prompt_tokens, same.attempts[0].rewritten_sql) == (0, earned.answer.sql)
        with closing(sqlite3.connect(tmp_path / "ferries.db")) as ferries, ferries:
            of_route = (
                "SELECT b.id FROM booking b JOIN sailing s ON s.id = b.sailing_id JOIN route r ON r.id = s.route_id"
            )
            ferries.execute(
                f"UPDATE booking SET total_cents = total_cents + 100 WHERE id IN ({of_route} WHERE r.code = 'QH-GS' "
                "AND b.status = 'confirmed')"
            )
        changed = client.again(same.id)
        assert changed.answer is not None
        assert changed.answer.since is not None
        assert (changed.answer.since.same, changed.answer.since.changed) == (False, 1)
        assert "QH-GS: revenue 32,9" in changed.answer.text
        assert "more than then (32,305.30 EUR)" in changed.answer.text
        assert client.verify_ledger().intact
        other = client.create_token("desk", "Rhea Quist", ["ferries"], ["ask", "audit"]).secret
        refused = client.ask("Delete every booking", "ferries")
        for token, key, status, problem in (
            (other, earned.id, 403, "not-own-inquiry"), (own.token, refused.id, 409, "no-answer"),
        ):  # fmt: skip
            said = httpx.post(
                f"{own.url}/api/v1/inquiries", json={"follows": key, "choice": "again"},
                headers={"Authorization": f"Bearer {token}"},
            )  # fmt: skip
            assert (said.status_code, said.json()["type"]) == (status, f"/problems/{problem}")


LATER = """
import sys, types
from datetime import datetime, timedelta
from pathlib import Path
from harquel.service.config import load_config
from harquel.service.serving import prepare_django
prepare_django(load_config(Path(sys.argv[1])))
from harquel.core.domain.policy import Policy
from harquel.service.inquiries.retention import Retention
from harquel.service.records.writer import Writer
ferries = types.SimpleNamespace(core=types.SimpleNamespace(policy=Policy()))
writer = Writer()
print(Retention({"ferries": ferries}, writer).look(datetime.fromisoformat(sys.argv[2]) + timedelta(days=365)))
writer.close()
"""


def nothing_left(client: Harquel, keys: list[str]) -> None:
    """Beside the ledger, too: nothing of their rows is left in the file but what the sentence says."""
    for key in keys:
        entries = client.ledger(inquiry=key, limit=200).items
        ran = [e for e in entries if e.kind == "ran"]
        assert ran
        assert {(e.texts["rows"], bool(e.texts["sql"])) for e in ran} == {(None, True)}
        shown = [e.texts["prompt"] for e in entries if e.kind == "prompted" and e.facts.get("duty") == "word"]
        assert set(shown) <= {None}
        assert shown or key != keys[0]


def test_rows_that_have_had_their_time_are_gone_everywhere_and_the_rest_still_holds(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    # What was sent on to where it is not taken waits in the records, too.
    environment = {
        "HARQUEL__DUTIES__WORD": "main", "HARQUEL__DESTINATIONS__GONE__URL": "https://127.0.0.1:1/",
        "HARQUEL__DESTINATIONS__GONE__SECRET": "env:GONE_SECRET", "GONE_SECRET": "whsec_" + "QUJD" * 8,
    }  # fmt: skip
    with new_stage(tmp_path, environment=environment) as own, Harquel(own.url, own.token) as client:
        # Rows came for an answer, for a question that is asked back, and for one that we tried ourselves.
        old = client.ask("Which five routes earned most this year?", "ferries")
        let(own, to=["gone"])
        sent = client.send(calls.send_on(old.id, "gone"))
        while next(s for s in client.send(calls.sendings()) if s.id == sent.id).state == "waiting":
            time.sleep(0.1)
        open_ = client.ask("How many were cancelled in August 2026?", "ferries")
        assert (open_.outcome, open_.answer) == ("clarify", None)
        tried = next(e for e in client.each_entry() if e.kind == "ran" and e.who == "harquel").inquiry
        own.service.kill()
        said = subprocess.run(
            [sys.executable, "-c", LATER, str(own.folder / "harquel.toml"), utc_now().isoformat()],
            capture_output=True, text=True, timeout=60, check=True,
        )  # fmt: skip
        own.serve_again()
        young = client.ask("Which five routes earned most this year?", "ferries")
        found = client.inquiry(old.id).answer
        assert found is not None
        assert old.answer is not None
        assert (found.text, found.sql, found.table.rows, found.table.row_count) == (
            old.answer.text, old.answer.sql, [], 5
        )  # fmt: skip
        kept = client.inquiry(young.id).answer
        assert kept is not None
        assert len(kept.table.rows) == 5
        nothing_left(client, [old.id, open_.id, str(tried)])
        with pytest.raises(HarquelError, match="kept no more"):
            client.send(calls.send_again(sent.id))
        with closing(sqlite3.connect(own.folder / "records" / "records.db")) as records:
            assert records.execute("SELECT body FROM outbox_storedsending").fetchall() == [(b"",)]
        told = [e.facts for e in client.ledger(limit=50).items if e.kind == "rows-blanked"]
        assert sum(facts["answers"] for facts in told) == int(said.stdout) > 2
        assert ("ferries", 365) in {(facts["source"], facts["days"]) for facts in told}
        assert client.verify_ledger().intact
        for call in (lambda: client.take_away(old.id, "csv"), lambda: client.draw(old.id)):
            with pytest.raises(HarquelError, match="kept no more"):
                call()
        again = client.again(old.id)
        assert again.answer is not None
        assert again.answer.since is not None
        assert (again.answer.since.same, len(again.answer.table.rows)) == (None, 5)
