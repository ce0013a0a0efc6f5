"""Whole results over HTTP: asked for, released, fetched, refused, on record, and gone when their time is over."""

from __future__ import annotations

import csv
import io
import json
import shutil
import sqlite3
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import httpx
import pytest

from harquel.client import Forbidden, Harquel, HarquelError, describing
from harquel.contract import Answer, Delivery, Inquiry
from harquel.core.curation.yaml_text import read_yaml
from harquel.demo.stage import Stage

QUESTION = "All bookings in 2026"


def changed(client: Harquel, **delivery: object) -> None:
    """The policy of the demo with another section about deliveries."""
    values = read_yaml(client.send(describing.document("ferries", "policy")).text)
    values["delivery"] = delivery or None
    client.send(describing.replace_document("ferries", "policy", json.dumps(values), force=True))


def of(client: Harquel, found: Inquiry, form: str = "csv") -> httpx.Response:
    headers = {"Authorization": client._http.headers["Authorization"]}
    return httpx.get(f"{client.url}/api/v1/inquiries/{found.id}/file", params={"form": form}, headers=headers)


def delivered(found: Inquiry) -> tuple[Answer, Delivery]:
    """Its answer, and what is said of the file."""
    assert found.answer is not None, found.problem
    assert found.answer.delivery is not None
    return found.answer, found.answer.delivery


def in_csv(value: object) -> str:
    return "" if value is None else str(value)


def test_all_rows_of_an_answer_go_to_whoever_asked(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    with new_stage(tmp_path) as own, Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        assert asked.answer is not None
        assert (asked.answer.table.cut_by, asked.answer.delivery) == ("rows", None)
        made = client.deliver(asked.id)
        answer, file = delivered(made)
        with closing(sqlite3.connect(tmp_path / "ferries.db")) as ferries:
            wanted = ferries.execute(asked.answer.sql.replace(" LIMIT 1001", "")).fetchall()
        assert file.rows == len(wanted) > 6000
        assert answer.text == f"The whole result: {len(wanted):,} rows, as a file."
        # What was doubted then is doubted now, but that it was cut.
        assert [c.rule for c in asked.answer.caveats] == ["result-cut", *(c.rule for c in answer.caveats)]
        assert (made.follows, made.choice, made.trust, made.usage.calls) == (asked.id, "whole", "caution", 0)
        kinds = [e.kind for e in client.events(made.id)]
        assert kinds == ["accepted", "ruled", "ruled", "planned", "ruled", "delivered", "ended"]
        buffer = io.BytesIO()
        assert client.take_all_away(made.id, buffer, "jsonl") == len(buffer.getvalue())
        lines = [json.loads(line) for line in buffer.getvalue().splitlines()]
        assert lines[0] == [c.name for c in answer.table.columns]
        assert [tuple(line) for line in lines[1:]] == wanted
        rows = list(csv.reader(io.StringIO(of(client, made).content.decode("utf-8-sig"))))
        assert rows[1:] == [list(map(in_csv, line)) for line in lines[1:]]
        assert of(client, made, "xlsx").json()["type"] == "/problems/other-form"
        taken = [e for e in client.ledger(inquiry=made.id).items if e.kind == "taken-away"]
        assert [e.facts["form"] for e in taken] == ["csv", "jsonl"]
        assert client.verify_ledger().intact


def test_nobody_else_takes_it_away_nor_whoever_asked_once_the_policy_is_another(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with new_stage(tmp_path) as own, Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        made = client.deliver(asked.id)
        # Whoever may read it may not take it: neither of an auditor's eyes nor of one who releases.
        auditor = client.create_token("audit", "Rhea Quist", ["ferries"], ["ask", "audit", "release"])
        with Harquel(own.url, auditor.secret) as other:
            assert other.inquiry(made.id).answer is not None
            assert of(other, made).json()["type"] == "/problems/not-own-inquiry"
            with pytest.raises(Forbidden, match="Only whoever asked"):
                other.deliver(asked.id)
        nobody = httpx.get(f"{own.url}/api/v1/inquiries/{made.id}/file", params={"form": "csv"})
        assert nobody.status_code == 401
        # What the policy no longer lets go does not go, however old the file is.
        for section in ({}, {"roles": ["manager"]}):
            changed(client, **section)
            assert of(client, made).json()["type"] == "/problems/not-delivered"
            refused = client.deliver(asked.id)
            assert refused.problem is not None
            assert (refused.outcome, refused.problem.type) == ("refused", "not-delivered")
        changed(client, kept_h=24)
        assert of(client, made).status_code == 200


def test_a_service_that_is_ended_in_the_middle_leaves_nothing_half_done(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with new_stage(tmp_path) as own, Harquel(own.url, own.token) as client:
        made = client.deliver(client.ask(QUESTION, "ferries").id)
        assert made.answer is not None
        folder = tmp_path / "records" / "deliveries"
        assert [path.suffix for path in folder.iterdir()] == [".jsonl"]
        (folder / f"{made.id}.part").write_bytes(b"[1]\n")
        own.service.kill()
        own.serve_again()
        assert [path.suffix for path in folder.iterdir()] == [".jsonl"]
        deleted = [e.facts for e in client.ledger(inquiry=made.id).items if e.kind == "file-deleted"]
        assert deleted == [{"why": "unfinished"}]
        (folder / f"{made.id}.jsonl").unlink()
        assert of(client, made).json()["type"] == "/problems/no-longer-kept"


def test_a_delivery_waits_for_somebody_where_the_policy_says_so(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    with new_stage(tmp_path) as own, Harquel(own.url, own.token) as client:
        asked = client.ask(QUESTION, "ferries")
        changed(client, approval=True, rows=2000)
        held = client.deliver(asked.id)
        assert held.hold is not None
        assert (held.state, held.hold.policy_line, held.answer) == ("held", "delivery.approval", None)
        assert of(client, held).status_code == 409
        with pytest.raises(Forbidden):
            client.release(held.id, True)
        token = client.create_token("desk", "Rhea Quist", ["ferries"], ["release"])
        with Harquel(own.url, token.secret) as other:
            other.release(held.id, True)
            ended = client.inquiry(held.id)
            for _ in client.events(held.id):
                ended = client.inquiry(held.id)
            assert ended.answer is not None
            assert ended.answer.delivery is not None
            assert (ended.answer.delivery.rows, ended.answer.delivery.cut_by) == (2000, "rows")
            assert "delivery-cut" in [c.rule for c in ended.answer.caveats]
            # Who released it has read it, and takes nothing away.
            with pytest.raises(HarquelError):
                other.take_all_away(held.id, io.BytesIO())
        assert len(of(client, ended, "jsonl").content.splitlines()) == 2001
        # Taken back while it waits, it is over.
        taken_back = client.deliver(asked.id)
        client.cancel(taken_back.id)
        assert client.inquiry(taken_back.id).outcome == "cancelled"
        assert client.verify_ledger().intact


def test_what_cannot_be_tidied_up_does_not_end_the_looks(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    quickly = {"HARQUEL__SERVICE__LOOK_EVERY_S": "1"}
    with new_stage(tmp_path, environment=quickly) as own, Harquel(own.url, own.token) as client:
        shutil.rmtree(tmp_path / "records" / "deliveries")
        deadline = time.monotonic() + 40
        while "tidying up broke" not in (tmp_path / "serve.log").read_text():
            assert time.monotonic() < deadline
            time.sleep(0.2)
        before = len(client.send(describing.versions("ferries")))
        with closing(sqlite3.connect(tmp_path / "ferries.db")) as ferries, ferries:
            ferries.execute("CREATE TABLE buoy (id INTEGER PRIMARY KEY)")
        while len(client.send(describing.versions("ferries"))) == before:
            assert time.monotonic() < deadline
            time.sleep(0.2)
