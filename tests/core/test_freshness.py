"""How fresh the data of an answer are: by a column that the notes name, by the file, by how far a real replica is."""

from __future__ import annotations

import datetime as dt
import os
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import pytest
from pydantic import ValidationError

from harquel.core.calendar import USUAL
from harquel.core.clock import utc_now
from harquel.core.domain.fresh import Fresh, Written
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.notes import Notes
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Policy, RowRule
from harquel.core.engines import engine_for
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.inquiry.conduct import conduct
from harquel.core.inquiry.source import Source
from harquel.core.sandbox import Sandbox
from harquel.demo.servers import ADMIN_PASSWORD, Postgresql
from harquel.testing.sources import NOW, Unwatched, ask, demo_notes, demo_policy, demo_sandbox, demo_source
from tests.conftest import servers

QUESTION = "How many sailings were cancelled in August 2026?"
Asks = Callable[..., Source]


@pytest.fixture(scope="module")
def sandbox(ferries: Path) -> Iterator[Sandbox]:
    made = demo_sandbox(ferries)
    yield made
    made.close()


@pytest.fixture
def source(ferries: Path, model_url: str, sandbox: Sandbox) -> Asks:
    def made(notes: Notes | None = None, policy: Policy | None = None, written: Written | None = None) -> Source:
        found = demo_source(ferries, model_url, sandbox, notes=notes, policy=policy)
        return replace(found, reader=found.model, written=lambda: written)

    return made


def fresh_of(inquiry: Inquiry) -> Fresh:
    assert inquiry.answer is not None, inquiry.problem
    assert inquiry.answer.fresh is not None
    return inquiry.answer.fresh


def test_the_newest_value_of_the_named_column_is_told_in_the_language_and_the_zone(source: Asks) -> None:
    found = fresh_of(ask(source(), QUESTION))
    assert found.said == "Data up to 14 September 2026, 09:58 (UTC)."
    assert (found.by, found.of) == ("column", "sailing.actual_departure")
    assert found.at == dt.datetime(2026, 9, 14, 9, 58, tzinfo=dt.UTC)
    there = demo_notes(lambda text: f"{text}\ncalendar: {{zone: Australia/Eucla, stored: utc}}\n")
    made = source(there)
    assert isinstance(made.sandbox, Sandbox)
    made.sandbox.calendar = there.calendar
    question = "Wie viele Fahrten sind im August 2026 ausgefallen?"
    asked = Inquiry(
        id="test", state="working", source="ferries", question=question, asked_by="Ada", asked_at=NOW, language="de"
    )
    german = fresh_of(conduct(asked, made, Unwatched(), NOW))
    made.sandbox.calendar = USUAL
    assert german.said == "Daten bis 14. September 2026, 18:43 (Australia/Eucla)."
    assert german.at == found.at


def test_money_is_told_with_the_sign_of_its_currency_where_the_language_has_it(source: Asks) -> None:
    notes = demo_notes(lambda text: text.replace("[eur, euro, euros]}", '[eur, euro, euros], symbol: "€"}'))
    assert notes.units["EUR"].symbol == "€"
    english = ask(source(notes), "Which five routes earned most this year?").answer
    assert english is not None
    assert "QH-SR is highest with €36,395.20, €4,089.90 (12.7 %) ahead of QH-GS (€32,305.30)" in english.text
    assert [column.unit for column in english.table.columns] == [None, "€"]
    asked = Inquiry(
        id="test", state="working", source="ferries", question="Umsatz je Strecke in diesem Jahr", asked_by="Ada",
        asked_at=NOW, language="de",
    )  # fmt: skip
    german = conduct(asked, source(notes), Unwatched(), NOW).answer
    assert german is not None
    assert "QH-SR liegt mit 36.395,20 € am höchsten, 4.089,90 € (12,7 %) vor" in german.text
    with pytest.raises(ValidationError):
        Notes.model_validate({"units": {"EUR": {"symbol": "a sign of any length"}}})


def test_of_several_tables_the_one_that_is_furthest_behind_counts(source: Asks) -> None:
    found = fresh_of(ask(source(), "Which five routes earned most this year?"))
    newest = {"booking.booked_at", "sailing.actual_departure"}
    assert found.of in newest
    assert found.at <= dt.datetime(2026, 9, 14, 9, 58, tzinfo=dt.UTC)


def test_a_time_that_lies_ahead_says_nothing_of_when_data_came(source: Asks) -> None:
    ahead = demo_notes(lambda text: text.replace("fresh_by: actual_departure", "fresh_by: scheduled_departure"))
    inquiry = ask(source(ahead), QUESTION)
    assert inquiry.answer is not None
    # Sailings are planned for days to come: as of today they are no older than now.
    planned = dt.datetime(2026, 9, 30, 18, tzinfo=dt.UTC)
    assert (inquiry.answer.fresh is None) == (utc_now() + dt.timedelta(days=1) < planned)
    nowhere = demo_notes(lambda text: text.replace("fresh_by: actual_departure", "fresh_by: no_such_column"))
    gone = ask(source(nowhere, written=Written(NOW, "file")), QUESTION)
    assert fresh_of(gone).said == "From a file last written on 14 September 2026, 10:00 (UTC)."


def test_of_rows_that_somebody_may_not_see_not_even_the_last_one_is_told(source: Asks) -> None:
    policy = demo_policy()
    rule = RowRule(table="sailing", where="actual_departure < '2026-05-01'", unless=("harbour-master",))
    made = source(policy=policy.model_copy(update={"rows": (rule,)}))
    for person, until in (
        (Person("Bo Harl", frozenset({"harbour-master"}), {}), "2026-09-14"),
        (Person("Ada Brinewell", frozenset(), {}), "2026-04-30"),
    ):  # fmt: skip
        inquiry = Inquiry(
            id="test", state="working", source="ferries", question=QUESTION, asked_by=person.name, asked_at=NOW
        )
        found = conduct(inquiry, made, Unwatched(), NOW, person)
        assert f"{fresh_of(found).at:%Y-%m-%d}" == until


def test_it_is_asked_for_once_a_minute_and_not_for_each_question(source: Asks) -> None:
    made = source()
    ask(made, QUESTION)
    before = dict(made.looked_up)
    ask(made, QUESTION)
    assert [key for key in made.looked_up if "newest" in key] == [key for key in before if "newest" in key]
    assert len([key for key in before if "newest" in key]) == 1


def test_a_file_says_when_it_was_written(tmp_path: Path, ferries: Path) -> None:
    path = tmp_path / "copy.db"
    path.write_bytes(ferries.read_bytes()[:4096])
    os.utime(path, (1_780_000_000, 1_780_000_000))
    found = SqliteEngine(path).written()
    assert found == Written(dt.datetime.fromtimestamp(1_780_000_000, dt.UTC), "file")
    # What was written last lies in the log beside it.
    log = path.with_name("copy.db-wal")
    log.write_bytes(b"")
    os.utime(log, (1_780_000_060, 1_780_000_060))
    assert SqliteEngine(path).written() == Written(dt.datetime.fromtimestamp(1_780_000_060, dt.UTC), "file")
    assert SqliteEngine(tmp_path / "nothing.db").written() is None


class Standby(Postgresql):
    """A replica of another server, streaming from it."""

    primary: Postgresql

    def _make(self) -> None:
        at = f"host=127.0.0.1 port={self.primary.port} user={self.primary.admin} password={ADMIN_PASSWORD}"
        self._call(["pg_basebackup", "-d", at, "-D", str(self.folder / "data"), "-R", "--checkpoint=fast", "--no-sync"])


@servers
def test_a_replica_says_how_far_it_is_and_a_primary_nothing(postgresql: Postgresql, reachable: Path) -> None:
    primary = engine_for(postgresql.url("ferries"), reachable)
    assert primary.written() is None
    primary.close()
    standby = Standby(reachable / "standby")
    standby.primary = postgresql
    with standby:
        engine = engine_for(standby.url("ferries"), reachable)
        try:
            # Idle and all of it there: as of now.
            deadline = time.monotonic() + 20
            while True:
                found = engine.written()
                assert found is not None
                if utc_now() - found.at < dt.timedelta(seconds=5):
                    break
                assert time.monotonic() < deadline, found
                time.sleep(0.2)
            assert found.by == "replica"
            # Held back, it is as old as what it has shown last.
            standby.run("SELECT pg_wal_replay_pause()")
            postgresql.run("CREATE TABLE IF NOT EXISTS later (n INTEGER)", "DROP TABLE later", database="ferries")
            held = utc_now()
            time.sleep(1.5)
            behind = engine.written()
            assert behind is None or behind.at <= held
        finally:
            engine.close()
