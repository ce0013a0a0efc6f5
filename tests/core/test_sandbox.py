"""The sandbox alone, as if the guard had erred: nothing is changed, nothing is left behind, nothing runs on."""

from __future__ import annotations

import hashlib
import os
import signal
import sqlite3
import subprocess
import sys
import textwrap
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from harquel.core.curation.yaml_text import read_yaml
from harquel.core.domain.statements import DraftedStatement, RuledStatement
from harquel.core.errors import Cancelled, SandboxError
from harquel.core.guard import rule_on_text
from harquel.core.sandbox import Sandbox, pool
from harquel.testing.sources import demo_policy, demo_sandbox, scanned
from tests.conftest import DATA

ATTACKS = [s.replace("{n}", str(i)) for i, s in enumerate(read_yaml((DATA / "attacks.yaml").read_text()))]
POLICY = demo_policy(query_s=1)
SPIN = "WITH RECURSIVE r(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM r) SELECT COUNT(*) FROM r"
Reads = dict[str, frozenset[str]]


@pytest.fixture(scope="module")
def reads(ferries: Path) -> Reads:
    catalog = POLICY.visible(scanned(ferries, POLICY))
    return {t.name: frozenset(c.name for c in t.columns) for t in catalog.tables}


@pytest.fixture(scope="module")
def sandbox(ferries: Path) -> Iterator[Sandbox]:
    made = demo_sandbox(ferries, query_s=1, bytes=100_000)
    yield made
    made.close()


def _around(path: Path) -> tuple[str, dict[str, int]]:
    """The database's digest, and every file beside it, in the temporary folder and in the root."""
    folders = (path.parent, Path("/tmp"), Path("/"))
    files = {
        str(f): f.stat().st_size for d in folders for f in d.iterdir() if "harquel-attack" in f.name or d == path.parent
    }
    files |= {str(f): 0 for f in Path("/").iterdir()}
    return hashlib.sha256(path.read_bytes()).hexdigest(), files


def test_sixty_attacks_change_nothing_whether_the_guard_stands_or_not(
    tmp_path: Path, ferries: Path, reads: Reads
) -> None:
    assert len(ATTACKS) >= 60
    path = tmp_path / "ferries.db"
    path.write_bytes(ferries.read_bytes())
    catalog = POLICY.visible(scanned(path, POLICY))
    before = _around(path)
    sandbox = demo_sandbox(path, query_s=0.4, bytes=100_000)
    try:
        for attack in ATTACKS:
            ruled = rule_on_text(DraftedStatement(attack), "sqlite", catalog, POLICY).statement
            started = time.monotonic()
            with pytest.raises(SandboxError):
                sandbox.test_door(attack, reads)
            if ruled is not None:
                # What only runs away passes the guard; the sandbox ends it, or its result stays small.
                try:
                    sandbox.run(ruled)
                except SandboxError as error:
                    assert error.fault in ("time", "memory"), attack
            assert time.monotonic() - started < 10, attack
        # Nobody holds a lock: an application can write at once.
        writer = sqlite3.connect(path, timeout=0.1)
        writer.execute("BEGIN IMMEDIATE")
        writer.rollback()
        writer.close()
    finally:
        sandbox.close()
    assert _around(path) == before


def test_a_runaway_ends_in_time_and_the_next_statement_runs_at_once(sandbox: Sandbox, reads: Reads) -> None:
    started = time.monotonic()
    with pytest.raises(SandboxError) as caught:
        sandbox.test_door(SPIN, {})
    assert caught.value.fault == "time"
    assert time.monotonic() - started < 10
    started = time.monotonic()
    assert sandbox.test_door("SELECT COUNT(*) FROM harbour", reads)["rows"] == [[8]]
    assert time.monotonic() - started < 5


def workers(sandbox: Sandbox, count: int) -> list[int]:
    """Their process ids, once there are so many."""
    deadline = time.monotonic() + 20
    while len(sandbox.pids()) < count and time.monotonic() < deadline:
        time.sleep(0.02)
    return sandbox.pids()


def test_there_is_one_worker_more_than_are_used_up_to_one_more_than_may_be(ferries: Path, reads: Reads) -> None:
    with closing(demo_sandbox(ferries, query_s=1)) as sandbox, ThreadPoolExecutor(4) as askers:
        (only,) = workers(sandbox, 1)
        time.sleep(0.5)
        assert sandbox.pids() == [only]
        for _ in range(5):
            sandbox.test_door("SELECT COUNT(*) FROM harbour", reads)
        assert len(workers(sandbox, 2)) == 2
        time.sleep(0.5)
        assert len(sandbox.pids()) == 2
        assert only in sandbox.pids()
        spinning = [askers.submit(sandbox.test_door, SPIN, {}) for _ in range(4)]
        assert len(workers(sandbox, 3)) == 3
        most = 3
        while not all(s.done() for s in spinning):
            most = max(most, len(sandbox.pids()))
            time.sleep(0.01)
        assert most == 3
        assert {s.exception().fault for s in spinning} == {"time"}  # type: ignore[union-attr]
        assert sandbox.test_door("SELECT COUNT(*) FROM harbour", reads)["rows"] == [[8]]
    assert sandbox.pids() == []


def test_a_worker_that_does_not_hear_is_killed_and_replaced(ferries: Path, reads: Reads) -> None:
    sandbox = demo_sandbox(ferries, query_s=0.5)
    try:
        sandbox.test_door("SELECT 1", reads)
        deaf = workers(sandbox, 2)
        for pid in deaf:
            os.kill(pid, signal.SIGSTOP)
        with pytest.raises(SandboxError) as caught:
            sandbox.test_door("SELECT 1", reads)
        assert caught.value.fault == "time"
        for pid in deaf:
            if Path(f"/proc/{pid}").exists():
                os.kill(pid, signal.SIGKILL)
        assert sandbox.test_door("SELECT 1 AS one", reads)["rows"] == [[1]]
    finally:
        sandbox.close()


def test_memory_is_bounded(ferries: Path, reads: Reads) -> None:
    sandbox = demo_sandbox(ferries, query_s=8, memory_mb=64, bytes=100_000_000)
    hog = "SELECT a.id FROM weather_reading AS a, harbour AS b, route AS c ORDER BY a.id * b.id * c.id DESC"
    try:
        with pytest.raises(SandboxError) as caught:
            sandbox.test_door(hog, reads)
        assert caught.value.fault == "memory"
        assert sandbox.test_door("SELECT 1", reads)["rows"] == [[1]]
    finally:
        sandbox.close()


def test_rows_and_bytes_are_cut_and_the_cut_is_known(ferries: Path) -> None:
    sandbox = demo_sandbox(ferries, rows=5, bytes=1000)
    try:
        many = RuledStatement("SELECT id FROM harbour LIMIT 6", {"harbour": frozenset({"id"})}, 5)
        result = sandbox.run(many)
        assert (len(result.rows), result.cut_by) == (5, "rows")
        wide = RuledStatement("SELECT note FROM incident LIMIT 6", {"incident": frozenset({"note"})}, 5)
        assert len(sandbox.run(wide).rows) == 5
        long = RuledStatement("SELECT group_concat(note) FROM incident", {"incident": frozenset({"note"})}, 5)
        assert (sandbox.run(long).rows, sandbox.run(long).cut_by) == ([], "bytes")
    finally:
        sandbox.close()


def test_cancelling_frees_the_database_within_a_second(sandbox: Sandbox) -> None:
    stop = threading.Event()
    threading.Timer(0.2, stop.set).start()
    started = time.monotonic()
    with pytest.raises(Cancelled):
        sandbox.run(RuledStatement(SPIN, {}, 10), stop.is_set)
    assert time.monotonic() - started < 8


def test_values_travel_in_the_form_of_the_contract(tmp_path: Path) -> None:
    path = tmp_path / "odd.db"
    with sqlite3.connect(path) as made:
        made.execute("CREATE TABLE odd (a, b, c, d, e)")
        made.execute("INSERT INTO odd VALUES (9007199254740993, 9e999, x'00ff', CAST(x'ff41' AS TEXT), NULL)")
    made.close()
    sandbox = demo_sandbox(path)
    try:
        (row,) = sandbox.test_door("SELECT a, b, c, d, e FROM odd", {"odd": frozenset("abcde")})["rows"]
        assert row == ["9007199254740993", None, "AP8=", "\ufffdA", None]
    finally:
        sandbox.close()


def test_a_crash_of_ours_leaves_no_worker_behind(ferries: Path, tmp_path: Path) -> None:
    script = textwrap.dedent(f"""
        import threading, time
        from pathlib import Path
        from harquel.testing.sources import demo_sandbox
        sandbox = demo_sandbox(Path({str(ferries)!r}), query_s=60)
        threading.Thread(target=lambda: sandbox.test_door({SPIN!r}, {{}}), daemon=True).start()
        while not sandbox.pids():
            time.sleep(0.05)
        time.sleep(1)
        print(*sandbox.pids(), flush=True)
        time.sleep(60)
    """)
    root = Path(__file__).resolve().parents[2]
    process = subprocess.Popen([sys.executable, "-c", script], stdout=subprocess.PIPE, cwd=root, text=True)
    assert process.stdout is not None
    pids = [int(p) for p in process.stdout.readline().split()]
    assert pids
    process.kill()
    process.wait()
    process.stdout.close()
    deadline = time.monotonic() + 20
    while any(Path(f"/proc/{p}").exists() for p in pids) and time.monotonic() < deadline:
        time.sleep(0.05)
    assert not [p for p in pids if Path(f"/proc/{p}").exists()]


def test_rows_of_a_view_are_counted_though_no_column_of_one_of_its_tables_is_needed(tmp_path: Path) -> None:
    """SQLite takes the view apart and asks for a table beneath it without naming the view."""
    path = tmp_path / "view.db"
    with sqlite3.connect(path) as connection:
        connection.executescript(
            "CREATE TABLE pier (id INTEGER PRIMARY KEY, name TEXT);"
            "CREATE TABLE lamp (id INTEGER PRIMARY KEY, watt INT);"
            "CREATE VIEW lit AS SELECT p.name, l.watt FROM pier p CROSS JOIN lamp l;"
            "INSERT INTO pier VALUES (1, 'North'), (2, 'South'); INSERT INTO lamp VALUES (1, 40), (2, 60), (3, 60);"
        )
    connection.close()
    sandbox = demo_sandbox(path)
    try:
        for sql, rows in (("SELECT COUNT(*) FROM lit", [[6]]), ("SELECT COUNT(name) FROM lit", [[6]])):
            assert sandbox.test_door(sql, {"lit": frozenset({"name", "watt"})})["rows"] == rows
        for sql in ("SELECT COUNT(*) FROM pier", "SELECT name FROM pier"):
            with pytest.raises(SandboxError) as caught:
                sandbox.test_door(sql, {"lamp": frozenset({"watt"})})
            assert caught.value.fault == "denied"
    finally:
        sandbox.close()


def test_nobody_waits_longer_for_a_worker_than_for_the_statement(
    ferries: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A busy machine takes long to start one: a small query of a second must not stand for half a minute."""
    with closing(demo_sandbox(ferries)) as sandbox:
        draft = DraftedStatement("SELECT COUNT(*) FROM vessel")
        ruled = rule_on_text(draft, "sqlite", POLICY.visible(scanned(ferries, POLICY)), POLICY).statement
        assert ruled is not None
        assert sandbox.run(ruled).rows
        started = pool.Worker

        def slow(*given: Any, **named: Any) -> Any:
            time.sleep(1.2)
            return started(*given, **named)

        monkeypatch.setattr(pool, "Worker", slow)
        while len(sandbox.pids()) < 2:
            time.sleep(0.05)
        for pid in sandbox.pids():
            os.kill(pid, signal.SIGKILL)
        began = time.monotonic()
        with pytest.raises(SandboxError, match="no worker could be started"):
            sandbox.run(ruled, within_s=0.2)
        assert time.monotonic() - began < 1.15
        # The ones that were ordered serve those who come later.
        assert sandbox.run(ruled).rows
