"""Policies over HTTP: people with roles and values, held statements, explanations, and the one switch."""

from __future__ import annotations

import json
import re
import threading
import time
from collections.abc import Iterator

import pytest

from harquel.client import Forbidden, Harquel, HarquelError, calls, describing
from harquel.core.curation.yaml_text import read_yaml
from harquel.demo.stage import Stage

CANCELLED = "How many sailings were cancelled in August 2026?"
CUSTOMERS = "How many customers joined in 2026?"


@pytest.fixture(scope="module")
def people(stage: Stage) -> Iterator[dict[str, Harquel]]:
    """A trainee whose statements are held, somebody who releases them, a clerk of one island, a clerk of none."""
    made = {}
    with Harquel(stage.url, stage.token) as admin:
        for name, person, scopes, roles, values in (
            ("trainee", "Tam Okell", ["ask"], ["trainee"], {}),
            ("releaser", "Rhea Quist", ["ask", "release"], [], {}),
            ("clerk", "Cass Wren", ["ask"], ["harbour-clerk"], {"islands": ["Marrow"]}),
            ("unknown", "Odo Finch", ["ask"], ["harbour-clerk"], {}),
        ):
            token = admin.create_token(f"{name} of the tests", person, ["ferries"], scopes, roles, values)  # type: ignore[arg-type]
            made[name] = Harquel(stage.url, token.secret)
    yield made
    for client in made.values():
        client.close()


def test_agreed_measures_are_told_to_whom_their_tables_are(client: Harquel) -> None:
    before = client.send(describing.document("ferries", "policy")).text
    measures = {m.name: m for m in client.catalog("ferries").measures}
    assert (measures["revenue"].unit, measures["revenue"].owner) == ("EUR", "finance")
    values = read_yaml(before)
    values["expose"]["withhold"] = [*values["expose"].get("withhold", []), "customer"]
    client.send(describing.replace_document("ferries", "policy", json.dumps(values), force=True))
    try:
        assert "revenue" not in {m.name for m in client.catalog("ferries").measures}
    finally:
        client.send(describing.replace_document("ferries", "policy", before, force=True))


def test_a_held_statement_runs_once_somebody_else_releases_it(people: dict[str, Harquel], client: Harquel) -> None:
    held = people["trainee"].ask(CANCELLED, "ferries")
    assert (held.state, held.outcome) == ("held", None)
    assert held.hold is not None
    assert held.hold.policy_line == "approval.roles"
    assert held.attempts[-1].run is None
    with pytest.raises(Forbidden):
        people["trainee"].release(held.id, True)
    assert held.id in [line.id for line in people["releaser"].inquiries(state="held").items]
    people["releaser"].release(held.id, True, "go ahead")
    ended = _ended(people["trainee"], held.id)
    assert ended.answer is not None
    # What was released is this statement: a second way would have to be released itself.
    assert [c.rule for c in ended.answer.caveats] == ["unconfirmed"]
    assert ended.answer.table.rows == [[12]]
    assert ended.hold is not None
    assert (ended.hold.approved, ended.hold.by, ended.hold.note) == (True, "Rhea Quist", "go ahead")
    kinds = [e.kind for e in people["trainee"].events(held.id) if e.kind != "piece"]
    assert kinds.index("held") < kinds.index("released") < kinds.index("ran")
    with pytest.raises(HarquelError, match="does not wait"):
        people["releaser"].release(held.id, True)
    assert client.verify_ledger().intact


def test_a_held_statement_can_be_turned_down_or_taken_back(people: dict[str, Harquel]) -> None:
    one, other = (people["trainee"].ask(CANCELLED, "ferries").id for _ in range(2))
    people["releaser"].release(one, False, "ask the office")
    ended = _ended(people["trainee"], one)
    assert (ended.outcome, ended.answer) == ("refused", None)
    assert ended.problem is not None
    assert (ended.problem.hint, ended.problem.policy_line) == ("ask the office", "approval.roles")
    with pytest.raises(HarquelError, match="Only whoever asked"):
        people["releaser"].cancel(other)
    people["trainee"].cancel(other)
    assert _ended(people["trainee"], other).outcome == "cancelled"


def _ended(client: Harquel, key: str):  # type: ignore[no-untyped-def]
    deadline = time.monotonic() + 20
    while (found := client.inquiry(key)).state != "ended" and time.monotonic() < deadline:
        time.sleep(0.1)
    return found


def test_a_clerk_gets_the_rows_of_the_islands_on_the_token(people: dict[str, Harquel], client: Harquel) -> None:
    whole, part = client.ask(CUSTOMERS, "ferries"), people["clerk"].ask(CUSTOMERS, "ferries")
    assert whole.answer is not None
    assert part.answer is not None
    ((all_of_them,),), ((mine,),) = whole.answer.table.rows, part.answer.table.rows
    assert 0 < mine < all_of_them
    assert part.attempts[-1].rulings[0].policy_line == "rows[0].where"
    assert part.attempts[-1].dry_run is None
    refused = people["unknown"].ask(CUSTOMERS, "ferries")
    assert refused.outcome == "refused"
    assert refused.problem is not None
    assert refused.problem.policy_line == "rows[0].where"
    assert "islands" in refused.problem.title
    assert "steward" in refused.problem.hint


def test_nothing_that_was_read_ahead_reaches_somebody_restricted(people: dict[str, Harquel], client: Harquel) -> None:
    """Not through prompts, the catalog or answers: neither a value nor a count of the restricted tables."""
    asked = [people["clerk"].ask(q, "ferries").id for q in (CUSTOMERS, "How many bookings were made per channel?")]
    catalog = {t.name: t for t in people["clerk"].catalog("ferries").tables}
    assert "route_day" not in catalog
    values = {"web", "phone", "counter", "agent"}
    for name in ("customer", "booking"):
        assert catalog[name].row_count is None
        for column in catalog[name].columns:
            assert not column.samples
            assert column.low is None
    assert any(c.samples for c in client.catalog("ferries").tables[0].columns) or catalog["harbour"].columns
    for key in asked:
        for entry in client.ledger(inquiry=key, limit=100).items:
            prompt = entry.texts.get("prompt")
            if prompt is not None:
                told = "\n".join(m["content"] for m in json.loads(prompt))
                booking = re.search(r"CREATE TABLE booking \(.*?\n\)|booking\b.*?(?=\n\n)", told, re.DOTALL)
                assert booking is not None
                assert not [v for v in values if f"'{v}'" in booking.group()], booking.group()


def test_explanations_and_checks_change_nothing_and_name_the_line(client: Harquel) -> None:
    explain = describing.explain_policy
    said = client.send(explain("ferries", None, "", ["harbour-clerk"], {"islands": ["Pell"]})).sentences
    assert ("rows[0].where", True) in [(s.line, "'Pell'" in s.text) for s in said]
    refused = client.send(explain("ferries", "SELECT name FROM crew_member", "", [], {}))
    assert (refused.verdict, refused.rulings[0].policy_line) == ("refuse", "personal.treatments[0]")
    assert "COUNT" in refused.instead
    assert client.send(explain("ferries", "SELECT name FROM crew_member", "", ["crewing"], {})).verdict == "run"
    assert client.send(explain("ferries", "SELECT 1 AS one", "", ["trainee"], {})).verdict == "hold"
    assert not client.send(describing.check_policy("ferries", None)).faults
    text = 'rows: [{table: bookings, where: "1 = 1"}, {table: booking, where: "custmer_id = 1"}]'
    faults = {f.line: f.text for f in client.send(describing.check_policy("ferries", text)).faults}
    assert "Did you mean booking?" in faults["rows[0].table"]
    assert "Did you mean customer_id?" in faults["rows[1].where"]
    with pytest.raises(HarquelError, match="Unknown key row"):
        client.send(describing.check_policy("ferries", "row: []"))


def test_personal_columns_are_counted_and_not_shown(client: Harquel) -> None:
    for sql, verdict in (
        ("SELECT COUNT(DISTINCT name) FROM crew_member", "run"), ("SELECT UPPER(name) FROM crew_member", "refuse"),
        ("SELECT COUNT(*) FROM crew_member WHERE name LIKE 'A%'", "refuse"),
        ("SELECT COUNT(name) OVER (PARTITION BY name) FROM crew_member", "refuse"),
        ("SELECT COUNT(n) FROM (SELECT name AS n FROM crew_member) AS q", "refuse"),
        ("SELECT 1 FROM crew_member AS a JOIN crew_member AS b USING (name)", "refuse"),
        ("SELECT COUNT(CASE WHEN name > 'M' THEN 1 END) FROM crew_member", "refuse"),
    ):  # fmt: skip
        assert client.review("ferries", sql).verdict == verdict, sql
    found = client.review("ferries", "SELECT * FROM crew_member")
    assert found.rewritten_sql is not None
    assert "name" not in found.rewritten_sql
    # No more than a tenth of the crew is listed row by row, or in groups; sums go over all of them.
    assert int(found.rewritten_sql.rsplit(" ", 1)[1]) < 20
    assert "LIMIT 1001" in str(client.review("ferries", "SELECT COUNT(rank) FROM crew_member").rewritten_sql)


def test_one_switch_stops_what_runs_and_what_comes(people: dict[str, Harquel], client: Harquel) -> None:
    with pytest.raises(Forbidden):
        people["clerk"].send(calls.standstill(True))
    took: list[float] = []

    def spin() -> None:
        started = time.monotonic()
        with pytest.raises(HarquelError):
            client.review("ferries", "SELECT COUNT(*) FROM booking AS a, booking AS b, booking AS c")
        took.append(time.monotonic() - started)

    try:
        assert client.send(calls.standstill(True)).on
        ended = people["releaser"].ask(CUSTOMERS, "ferries")
        assert (ended.outcome, ended.problem.type if ended.problem else "") == ("refused", "standstill")
        thread = threading.Thread(target=spin)
        thread.start()
        thread.join(20)
        assert took
        assert took[0] < 10
    finally:
        client.send(calls.standstill(False))
    assert people["releaser"].ask(CUSTOMERS, "ferries").outcome == "answered"
