"""Workers and their servers: a server that goes away is a clear outcome, and when it is back all is well again."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from harquel.core.domain.policy import Policy
from harquel.core.domain.statements import DraftedStatement, RuledStatement
from harquel.core.engines import engine_for
from harquel.core.errors import SandboxError
from harquel.core.guard import rule_on_plan, rule_on_text
from harquel.core.sandbox import Sandbox, SandboxLimits
from harquel.demo.servers import Mariadb, Postgresql, Server
from tests.conftest import servers

pytestmark = servers
ONE = RuledStatement("SELECT 1", {}, 10)
LIMITS = SandboxLimits(3, 100, 100_000, 256 * 2**20)


@pytest.fixture(params=[Postgresql, Mariadb], ids=["postgresql", "mariadb"])
def server(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[Server]:
    with request.param(tmp_path / "server") as made:
        made.run("CREATE DATABASE quay")
        if isinstance(made, Postgresql):
            made.run("CREATE ROLE reader LOGIN PASSWORD 'x-y-z'")
        else:
            made.run("CREATE USER 'reader'@'%' IDENTIFIED BY 'x-y-z'", "GRANT SELECT ON quay.* TO 'reader'@'%'")
        yield made


def test_a_server_that_goes_and_comes_back(server: Server, tmp_path: Path) -> None:
    engine = engine_for(server.url("quay", "reader", "x-y-z"), tmp_path)
    sandbox = Sandbox(engine, LIMITS, size=1)
    try:
        assert sandbox.run(ONE).rows == [[1]]
        server.stop()
        with pytest.raises(SandboxError) as caught:
            sandbox.run(ONE)
        assert caught.value.fault == "source"
        assert "x-y-z" not in str(caught.value)
        server.start()
        assert sandbox.run(ONE).rows == [[1]]
        # Also when it was gone only while nobody asked.
        server.stop()
        server.start()
        assert sandbox.run(ONE).rows == [[1]]
    finally:
        sandbox.close()
        engine.close()


def test_what_one_aggregate_puts_together_is_bounded_by_the_plan(postgresql: Postgresql, tmp_path: Path) -> None:
    """It grows in a process of the server's, which no limit of ours reaches."""
    engine = engine_for(postgresql.url("ferries"), tmp_path)
    sandbox = Sandbox(engine, LIMITS, size=1)
    policy = Policy()
    whole = engine.structure()
    series = "generate_series(1, 90000) AS a CROSS JOIN generate_series(1, 90000) AS b"
    texts = {
        f"SELECT COUNT(*) AS n FROM (SELECT ARRAY_AGG(a + b) AS l FROM {series}) AS q": "refuse",
        f"SELECT JSONB_AGG(a) AS l FROM {series}": "refuse",
        f"SELECT STRING_AGG(CAST(a AS TEXT), ',') AS l FROM {series}": "refuse",
        "SELECT ARRAY_AGG(a) AS l FROM generate_series(1, 900) AS a": "run",
        "SELECT island, JSONB_AGG(code) AS codes FROM harbour GROUP BY island": "run",
    }
    try:
        for sql, verdict in texts.items():
            ruled = rule_on_text(DraftedStatement(sql), "postgresql", policy.visible(whole), policy)
            assert ruled.statement is not None, (sql, ruled.findings)
            ruling, _ = rule_on_plan(sandbox.plan(ruled.statement), whole, policy)
            assert ruling.verdict == verdict, (sql, ruling)
    finally:
        sandbox.close()
        engine.close()


def test_settings_locks_and_variables_of_one_are_not_there_for_the_next(server: Server, tmp_path: Path) -> None:
    """What a statement leaves in its session must not meet the next one, which may be somebody else's."""
    engine = engine_for(server.url("quay", "reader", "x-y-z"), tmp_path)
    sandbox = Sandbox(engine, LIMITS, size=1)
    leaving = {
        "postgresql": ("SELECT set_config('work_mem', '1GB', false)", "SELECT pg_advisory_lock(1)"),
        "mariadb": ("SELECT @x := 5", "SELECT GET_LOCK('x', 1)", "SELECT 1 INTO @x", "SELECT SLEEP(0)"),
    }[engine.name]
    try:
        for sql in (*leaving, "SELECT 1 -- x", "SET x = 1", "BEGIN"):
            with pytest.raises(SandboxError) as caught:
                sandbox.test_door(sql, {})
            assert caught.value.fault == "denied", sql
        text = "'; FOR UPDATE -- pg_sleep(1) @x INTO SLEEP('"
        quoted = text.replace("'", "''")
        assert sandbox.test_door(f"SELECT '{quoted}'", {})["rows"] == [[text]]
    finally:
        sandbox.close()
        engine.close()
