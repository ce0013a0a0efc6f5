"""A part of `make breach` with every run of the tests: honest queries, a sample of attacks, some hundred made-up ones.

The oracle is tested first: an account that is let write must be seen to have written.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from breach.attack import POLICY, run_attacks
from breach.corpus import ENGINES, attacks, honest
from breach.fuzz import run_fuzz
from breach.honest import run_honest
from breach.past_the_rules import Maze
from breach.replies import run as throw_replies
from breach.targets import MariadbTarget, PostgresqlTarget, Target, targets

from harquel.core.domain.statements import RuledStatement
from harquel.core.errors import Cancelled, SandboxError
from harquel.core.sandbox import Sandbox, SandboxLimits
from tests.conftest import servers

pytestmark = servers
LONG = "SELECT COUNT(*) FROM {0}weather_reading AS a, {0}weather_reading AS b, {0}weather_reading AS c"


@pytest.fixture(scope="module")
def made(reachable: Path) -> Iterator[dict[str, Target]]:
    folder = reachable / "breach"
    folder.mkdir()
    with targets(folder, ENGINES) as found:
        yield {t.name: t for t in found}


def test_replies_that_mean_no_good_end_with_an_outcome_and_touch_nothing(tmp_path: Path) -> None:
    """A part of `python -m breach.replies`."""
    found = throw_replies(tmp_path, every=9)
    assert found.escapes == []
    assert found.thrown >= 20
    assert {key.partition(":")[0] for key in found.ended} == {"draft", "reading"}


def test_the_corpora_are_large_enough() -> None:
    assert sum(len(attacks(e)) for e in ENGINES) >= 250
    assert all(len(honest(e)) >= 200 for e in ENGINES)


def test_the_oracle_sees_what_an_account_does_that_may(made: dict[str, Target]) -> None:
    postgresql, mariadb = made["postgresql"], made["mariadb"]
    assert isinstance(postgresql, PostgresqlTarget)
    assert isinstance(mariadb, MariadbTarget)
    before = postgresql.state()
    for doing, undoing, changed in (
        ("UPDATE vessel SET name = name || 'x'", "UPDATE vessel SET name = rtrim(name, 'x')", {"data"}),
        ("SELECT lo_create(99)", "SELECT lo_unlink(99)", set()),
        ("SELECT lo_put(4710, 0, 'CARGO')", "SELECT lo_put(4710, 0, 'cargo')", {"large objects"}),
        ("SELECT pg_advisory_lock(5)", "SELECT pg_advisory_unlock(5)", {"locks"}),
        ("NOTIFY harquel, 'x'", "SELECT 1", {"other sessions"}),
        ("CREATE TABLE loot (x int)", "DROP TABLE loot", {"structure"}),
    ):
        postgresql.canary.execute(doing)
        after = postgresql.state()
        postgresql.canary.execute(undoing)
        assert changed <= {k for k in before if before[k] != after[k]}, doing
    before = mariadb.state()
    with mariadb.canary.cursor() as cursor:
        for doing, undoing, changed in (
            (
                "UPDATE vessel SET built_year = built_year + 1",
                "UPDATE vessel SET built_year = built_year - 1",
                {"data"},
            ),
            ("SELECT GET_LOCK('harquel', 1)", "DO RELEASE_ALL_LOCKS()", {"locks"}),
            ("CREATE TABLE loot (x INT)", "DROP TABLE loot", {"structure"}),
        ):
            cursor.execute(doing)
            after = mariadb.state()
            cursor.execute(undoing)
            assert changed <= {k for k in before if before[k] != after[k]}, doing


@pytest.mark.parametrize("engine", ENGINES)
def test_honest_queries_run_and_give_the_rows_of_the_bare_driver(engine: str, made: dict[str, Target]) -> None:
    """One in three; `make breach` runs all of them."""
    report = run_honest(made[engine], 3)
    assert report.count >= 65
    assert not report.failures, (report.invalid, report.refused, report.broken, report.different)


@pytest.mark.parametrize("engine", ENGINES)
def test_attacks_change_nothing_and_show_nothing(engine: str, made: dict[str, Target]) -> None:
    """One in six of each kind; `make breach` throws all of them, in disguises too."""
    report = run_attacks(made[engine], disguises=False, every=6)
    assert not report.escapes
    assert report.guard["refused"] > 0.8 * report.thrown


@pytest.mark.parametrize("engine", ENGINES)
def test_made_up_statements_find_no_way_through(engine: str, made: dict[str, Target]) -> None:
    report = run_fuzz(made[engine], 400, 30, lambda _: None)
    assert report.count == 400
    assert not report.escapes
    assert not report.stumbles


@pytest.mark.parametrize("engine", ENGINES)
def test_stopping_reaches_the_database_within_a_second(engine: str, made: dict[str, Target]) -> None:
    """And the worker's connection is thrown away with it; the next statement runs at once."""
    target = made[engine]
    limits = SandboxLimits.of(POLICY.limits.model_copy(update={"query_s": 30}))
    sandbox = Sandbox(target.engine, limits, size=1)
    statement = RuledStatement(
        LONG.format("public." if engine == "postgresql" else ""), {"weather_reading": frozenset({"id"})}, 10
    )
    stop, ended = threading.Event(), []

    def run() -> None:
        with pytest.raises(Cancelled):
            sandbox.run(statement, stop.is_set)
        ended.append(time.monotonic())

    try:
        thread = threading.Thread(target=run)
        thread.start()
        started = time.monotonic()
        while engine != "sqlite" and not target.running() and time.monotonic() - started < 15:
            time.sleep(0.05)
        time.sleep(0.5)
        assert target.running() == (0 if engine == "sqlite" else 1)
        asked = time.monotonic()
        stop.set()
        thread.join(20)
        assert ended[0] - asked < 10
        while target.running() and time.monotonic() - asked < 10:
            time.sleep(0.02)
        assert not target.running()
        assert sandbox.run(RuledStatement("SELECT 1", {}, 10)).rows == [[1]]
        sandbox.stand_still(True)
        with pytest.raises(SandboxError, match="stands still"):
            sandbox.run(RuledStatement("SELECT 1", {}, 10))
    finally:
        sandbox.close()


def test_a_seed_says_which_statements_of_restricted_people_there_are() -> None:
    """So that runs add up, and what was found can be made again."""

    def made(engine: str, seed: int) -> list[str]:
        maze = Maze(engine, "main", seed)
        return [maze.statement() for _ in range(40)]

    assert made("sqlite", 1) == made("sqlite", 1)
    assert len({tuple(made(engine, seed)) for engine in ENGINES for seed in range(3)}) == 9
