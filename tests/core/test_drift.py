"""The catalog follows the database: between two inquiries tables come, change and go."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from harquel.core.domain.policy import Exposure, Policy
from harquel.core.engines import Engine, engine_for
from harquel.core.engines.sqlite import SqliteEngine
from harquel.core.scanning import CatalogKeeper, compare
from harquel.demo.load_servers import READER, READER_PASSWORD
from harquel.demo.servers import Mariadb, Postgresql
from harquel.testing.sources import PATIENCE_S, ask, engine_source
from tests.conftest import servers

pytestmark = servers
Change = Callable[..., None]


@pytest.fixture(params=["sqlite", "postgresql", "mariadb"])
def database(request: pytest.FixtureRequest, ferries: Path, tmp_path: Path) -> Iterator[tuple[Engine, Change]]:
    """An engine over the demo world, and a way to change its structure as an administrator."""
    if request.param == "sqlite":
        path = tmp_path / "moves.db"
        shutil.copyfile(ferries, path)
        yield SqliteEngine(path), lambda *statements: [expected_write(path, s) for s in statements]
        return
    server: Postgresql | Mariadb = request.getfixturevalue(request.param)
    engine = engine_for(server.url("ferries", READER, READER_PASSWORD), tmp_path)
    yield engine, lambda *statements: server.run(*statements, database="ferries")
    server.run("DROP TABLE IF EXISTS lantern", "DROP TABLE IF EXISTS beacon", database="ferries")
    engine.close()


def expected_write(path: Path, sql: str) -> None:
    import sqlite3

    with sqlite3.connect(path) as connection:
        connection.execute(sql)
    connection.close()


@pytest.mark.parametrize(
    ("database", "look"),
    [("sqlite", "cheap"), ("postgresql", "cheap"), ("sqlite", "dear"), ("postgresql", "dear"), ("mariadb", "dear")],
    indirect=["database"],
)
def test_between_two_inquiries_a_table_comes_changes_and_goes(
    database: tuple[Engine, Change], model_url: str, look: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Where a look takes long, an inquiry begins by the old catalog and finds out on its way."""
    monkeypatch.setattr("harquel.core.scanning.keeper.CHEAP_S", PATIENCE_S if look == "cheap" else -1.0)
    engine, change = database
    source, keeper = engine_source(engine, model_url)
    try:
        assert ask(source, "How many lanterns are there?").outcome == "unanswerable"
        change(
            "CREATE TABLE lantern (id INTEGER PRIMARY KEY, colour VARCHAR(20) NOT NULL)",
            "INSERT INTO lantern VALUES (1, 'red'), (2, 'green'), (3, 'red')",
        )
        made = ask(source, "How many lanterns are there?")
        assert made.answer is not None, made.problem
        assert made.answer.table.rows == [[3]]
        change("ALTER TABLE lantern ADD COLUMN height INTEGER", "UPDATE lantern SET height = id * 10")
        changed = ask(source, "Average height of the lanterns")
        assert changed.answer is not None, changed.problem
        assert float(changed.answer.table.rows[0][0]) == 20
        change("DROP TABLE lantern")
        gone = ask(source, "How many lanterns are there?")
        assert gone.outcome == "unanswerable", (gone.problem, [a.error for a in gone.attempts])
        assert keeper.current().table("lantern") is None
    finally:
        source.sandbox.close()


def test_a_change_is_said_column_by_column(database: tuple[Engine, Change]) -> None:
    engine, change = database
    keeper = CatalogKeeper(engine, lambda: Policy(expose=Exposure(tables=("lantern", "beacon", "berth"))))
    change("CREATE TABLE lantern (id INTEGER PRIMARY KEY, colour VARCHAR(20))")
    before = keeper.refreshed()
    change(
        "ALTER TABLE lantern ADD COLUMN height INTEGER", "ALTER TABLE lantern DROP COLUMN colour",
        "CREATE TABLE beacon (id INTEGER PRIMARY KEY)",
    )  # fmt: skip
    after = keeper.refreshed()
    said = {(c.kind, c.table, c.column) for c in compare(before, after)}
    assert said == {("came", "beacon", ""), ("went", "lantern", "colour"), ("came", "lantern", "height")}
    assert after.number == before.number + 1


def test_only_what_changed_is_looked_into_again(database: tuple[Engine, Change]) -> None:
    engine, change = database
    seen: list[str] = []
    # A table that is not through within its seconds is looked into again, rightly.
    keeper = CatalogKeeper(
        engine, Policy, told=lambda run: seen.append(run.progress.now), profile_s=PATIENCE_S
    )  # fmt: skip
    keeper.refreshed()
    assert len(set(seen)) > 15
    seen.clear()
    change("CREATE TABLE lantern (id INTEGER PRIMARY KEY)")
    assert keeper.refreshed().table("lantern") is not None
    assert {name for name in seen if name} == {"lantern"}


def test_a_table_that_may_not_be_read_is_said_with_the_grant(postgresql: Postgresql, model_url: str) -> None:
    postgresql.run(
        "CREATE TABLE lantern (id INTEGER PRIMARY KEY)", f"REVOKE SELECT ON lantern FROM {READER}", database="ferries"
    )
    engine = engine_for(postgresql.url("ferries", READER, READER_PASSWORD), Path())
    source, _ = engine_source(engine, model_url)
    try:
        ended = ask(source, "How many lanterns are there?")
        assert (ended.outcome, ended.problem and ended.problem.type) == ("unanswerable", "not-granted")
        assert ended.problem is not None
        assert 'GRANT SELECT ON "public"."lantern" TO "reader";' in ended.problem.hint
        hidden = Policy(expose=Exposure(withhold=("lantern",)))
        secret, _ = engine_source(engine, model_url, policy=hidden)
        secret.sandbox.close()
        unsaid = ask(secret, "How many lanterns are there?")
        assert unsaid.problem is not None
        assert "lantern" not in f"{unsaid.problem.title} {unsaid.problem.hint}".replace("of: lantern", "")
        postgresql.run(f"GRANT SELECT ON lantern TO {READER}", database="ferries")
        assert ask(source, "How many lanterns are there?").outcome == "answered"
    finally:
        source.sandbox.close()
        postgresql.run("DROP TABLE lantern", database="ferries")
        engine.close()
