"""Conversations over HTTP: what is kept of them, who may go on with which, and what that comes to."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

import pytest
import yaml

from harquel.client import Harquel, HarquelError, NotFound
from harquel.client.describing import document, replace_document
from harquel.demo.stage import Stage

QUESTION = "How many sailings were cancelled in August 2026?"


def test_what_follows_is_a_question_of_its_own_and_a_line_of_the_thread(client: Harquel) -> None:
    first = client.ask(QUESTION, "ferries")
    july = client.ask("and in July?", follows=first.id)
    ships = client.ask("per vessel instead", follows=july.id)
    again = client.choose(ships.id, "again")
    assert (july.source, july.standalone_question) == ("ferries", "How many sailings were cancelled in July 2026?")
    assert ships.standalone_question == "How many sailings were cancelled in July 2026 per vessel?"
    assert (july.trust, ships.trust) == ("clear", "clear")
    assert july.answer is not None
    assert july.answer.text == "8 sailings were cancelled in July 2026."
    assert [i.thread for i in (first, july, ships, again)] == [None, first.id, first.id, first.id]
    assert client.inquiry(ships.id) == ships
    lines = client.inquiries(thread=first.id).items
    assert [line.id for line in lines] == [again.id, ships.id, july.id, first.id]
    assert (lines[2].question, lines[2].standalone_question) == ("and in July?", july.standalone_question)
    told = [e for e in client.events(july.id) if e.kind == "restated"]
    assert (told[0].facts["by"], told[0].texts["question"]) == ("reading", july.standalone_question)
    assert client.verify_ledger().fault is None


def test_a_question_that_is_complete_takes_nothing_along(client: Harquel) -> None:
    first = client.ask(QUESTION, "ferries")
    found = client.ask("How many vessels are there?", "ferries", follows=first.id, complete=True)
    assert (found.follows, found.thread, found.standalone_question) == (first.id, first.id, None)
    assert not [e for e in client.events(found.id) if e.kind == "restated"]


def test_thanks_asks_for_nothing_and_is_gone_back_over(client: Harquel) -> None:
    first = client.ask(QUESTION, "ferries")
    thanks = client.ask("Thank you", follows=first.id)
    assert thanks.outcome == "clarify"
    assert thanks.clarify is not None
    assert thanks.clarify.choices == []
    july = client.ask("and in July?", follows=thanks.id)
    assert july.standalone_question == "How many sailings were cancelled in July 2026?"


def test_what_was_asked_back_is_answered_in_words(client: Harquel) -> None:
    open_ = client.ask("How many were cancelled in August 2026?", "ferries")
    for said in ("sailings: 12", "2"):
        found = client.ask(said, follows=open_.id)
        assert (found.choice, found.answer and found.answer.table.rows) == ("meant-2", [[12]])


def test_nobody_goes_on_with_what_another_has_asked_or_what_is_under_way(client: Harquel, stage: Stage) -> None:
    first = client.ask(QUESTION, "ferries")
    made = client.create_token("ask-only", "Odo Finch", ["ferries"], ["ask"])
    with Harquel(stage.url, made.secret) as other, pytest.raises(NotFound):
        other.ask("and in July?", follows=first.id)
    audits = client.create_token("audits", "Odo Finch", ["ferries"], ["ask", "audit"])
    with Harquel(stage.url, audits.secret) as auditor:
        with pytest.raises(HarquelError, match="one's own inquiries only"):
            auditor.ask("and in July?", follows=first.id)
        assert auditor.inquiries(thread=first.id).items
    with Harquel(stage.url, made.secret) as other:
        assert other.inquiries(thread=first.id).items == [], "a thread shows nobody what is not theirs"
    under_way = client.ask(QUESTION, "ferries", wait_s=0)
    with pytest.raises(HarquelError, match="still under way"):
        client.ask("and in July?", follows=under_way.id)
    client.cancel(under_way.id)


def test_what_may_no_longer_be_seen_goes_to_no_model(client: Harquel) -> None:
    """The statement before is ruled on by the policy of now, whatever was answered by that of then."""
    first = client.ask("How many sailings of Brightwater in August 2026?", "ferries")
    assert first.answer is not None
    before = client.send(document("ferries", "policy")).text
    values = yaml.safe_load(before)
    values["expose"]["withhold"] = [*values["expose"].get("withhold", []), "vessel"]
    client.send(replace_document("ferries", "policy", json.dumps(values), force=True))
    try:
        found = client.ask("and now something quite different about it", follows=first.id)
    finally:
        client.send(replace_document("ferries", "policy", before, force=True))
    prompts = [e.texts["prompt"] for e in client.events(found.id) if e.kind == "prompted"]
    assert prompts
    assert "## Earlier question" in prompts[0]
    assert "What its query does" not in prompts[0]
    assert "It was understood as" not in prompts[0]


def test_threads_of_before_are_known_after_a_migration(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:  # fmt: skip
    """Records of a version that kept only what each inquiry follows."""
    with new_stage(tmp_path) as stage, Harquel(stage.url, stage.token) as client:
        first = client.ask(QUESTION, "ferries")
        july = client.ask("and in July?", follows=first.id)
        june = client.ask("and in June?", follows=july.id)
    with closing(sqlite3.connect(tmp_path / "records" / "records.db")) as records, records:
        index = records.execute("SELECT name FROM sqlite_master WHERE type = 'index' AND sql LIKE '%\"thread\"%'")
        for (name,) in index.fetchall():
            records.execute(f'DROP INDEX "{name}"')
        records.execute("ALTER TABLE inquiries_storedinquiry DROP COLUMN thread")
        records.execute("DELETE FROM django_migrations WHERE app = 'inquiries' AND name = '0005_thread'")
    with new_stage(tmp_path) as stage, Harquel(stage.url, stage.token) as client:
        assert [line.id for line in client.inquiries(thread=first.id).items] == [june.id, july.id, first.id]
