"""Starting, stopping, crashing: bad configuration, a taken port, kill -9, a tampered ledger."""

from __future__ import annotations

import os
import signal
import socket
import sqlite3
import subprocess
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from harquel.client import Harquel, calls
from harquel.contract import LedgerHead
from harquel.demo.stage import Stage, free_address
from tests.forked import run_harquel

QUESTION = "How many sailings were cancelled in August 2026?"
MakeStage = Callable[..., Stage]
GOOD = """
[models.main]
base_url = "http://127.0.0.1:9/v1"
name = "careful"
[duties]
draft = "main"
[sources.ferries]
url = "sqlite:///ferries.db"
"""
BROKEN = {
    "an unknown key": ('[service]\nbindd = "x"', "Unknown key service.bindd", "Did you mean bind?"),
    "an unknown key of a source": (GOOD + 'polcy = "x"', "Unknown key sources.ferries.polcy", "policy"),
    "a wrong value": ('[service]\naskers = "many"', "service.askers", ""),
    "a model nobody configured": (GOOD.replace('draft = "main"', 'draft = "mian"'), "mian", "Did you mean main?"),
    "a key written out": (
        GOOD.replace('name = "careful"', 'name = "x"\nkey = "s3cret"'),
        "models.main.key",
        "env:NAME",
    ),
    "a password in a URL": (GOOD.replace("sqlite:///ferries.db", "sqlite://u:pw@h/f"), "holds a password", "env:"),
    "a variable that is not set": (GOOD.replace("sqlite:///ferries.db", "env:NOT_SET"), "NOT_SET", ""),
    "another kind of database": (GOOD.replace("sqlite:///ferries.db", "mongo://x/y"), "mongo", "sqlite:///"),
    "a policy that is not there": (GOOD + 'policy = "none.yaml"', "none.yaml", ""),
    "no TOML": ("[service", "not valid TOML", ""),
}


def run(*arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
    return run_harquel(*arguments, env={**os.environ, **environment})


@pytest.mark.parametrize("name", BROKEN)
def test_a_configuration_that_cannot_be_used_says_so_in_a_sentence(name: str, tmp_path: Path) -> None:
    text, words, hint = BROKEN[name]
    (tmp_path / "harquel.toml").write_text(text)
    done = run("serve", "--config", str(tmp_path / "harquel.toml"), HARQUEL__SERVICE__BIND=free_address())
    assert done.returncode == 2
    assert words in done.stderr
    assert hint in done.stderr
    assert "Traceback" not in done.stderr
    assert "s3cret" not in done.stderr


def test_a_policy_with_an_unknown_key_names_the_nearest(tmp_path: Path) -> None:
    (tmp_path / "harquel.toml").write_text(GOOD + 'policy = "policy.yaml"')
    (tmp_path / "policy.yaml").write_text("limits: {row: 5}")
    done = run("serve", "--config", str(tmp_path / "harquel.toml"), HARQUEL__SERVICE__BIND=free_address())
    assert (done.returncode, "Unknown key limits.row in policy.yaml. Did you mean rows?" in done.stderr) == (2, True)


def test_a_missing_configuration_is_said(tmp_path: Path) -> None:
    done = run("serve", "--config", str(tmp_path / "none.toml"))
    assert (done.returncode, "is not there" in done.stderr) == (2, True)


def test_a_taken_port_and_a_second_service_are_said(new_stage: MakeStage, tmp_path: Path) -> None:
    with new_stage(tmp_path / "one") as first:
        config = str(first.folder / "harquel.toml")
        second = run("serve", "--config", config, HARQUEL__SERVICE__BIND=free_address())
        assert second.returncode == 2
        assert "already works on" in second.stderr
        elsewhere = run(
            "serve", "--config", config, HARQUEL__SERVICE__DATA_DIR="other", HARQUEL__SERVICE__BIND=first.bind
        )
        assert elsewhere.returncode == 2
        assert f"{first.bind} cannot be used" in elsewhere.stderr
        with Harquel(first.url, first.token) as client:
            assert client.ask(QUESTION, "ferries").outcome == "answered"


@pytest.mark.parametrize("content", [None, b"this is no database, though it is long enough"])
def test_a_source_that_is_no_database_is_a_clear_outcome(
    content: bytes | None, new_stage: MakeStage, tmp_path: Path
) -> None:
    stage = new_stage(tmp_path / "odd")
    config = stage.folder / "harquel.toml"
    stage.prepare()
    config.write_text(config.read_text().replace("sqlite:///ferries.db", "sqlite:///odd.db"))
    if content is not None:
        (stage.folder / "odd.db").write_bytes(content)
    with stage, Harquel(stage.url, stage.token) as client:
        inquiry = client.ask(QUESTION, "ferries")
        assert inquiry.outcome == "failed"
        assert inquiry.problem is not None
        assert inquiry.problem.type == "source-unreachable"
        assert inquiry.problem.hint
        assert client.source("ferries").problem
        assert client.verify_ledger().intact
        (stage.folder / "odd.db").unlink(missing_ok=True)
        os.link(stage.folder / "ferries.db", stage.folder / "odd.db")
        assert client.ask(QUESTION, "ferries").outcome == "answered"


def _children(pid: int) -> list[int]:
    tasks = Path(f"/proc/{pid}/task")
    return [int(c) for t in tasks.iterdir() for c in (t / "children").read_text().split()]


def test_kill_nine_in_the_middle_of_ten_inquiries_loses_nothing(new_stage: MakeStage, tmp_path: Path) -> None:
    stage = new_stage(tmp_path / "crash", pace_s=2.0)
    with stage:
        with Harquel(stage.url, stage.token) as client:
            before = client.ask(QUESTION, "ferries")
            keys = [client.ask(QUESTION, "ferries", wait_s=0).id for _ in range(10)]
        time.sleep(0.8)
        service = stage.processes[-1]
        workers = _children(service.pid)
        assert workers
        service.send_signal(signal.SIGKILL)
        service.wait()
        deadline = time.monotonic() + 20
        while any(Path(f"/proc/{w}").exists() for w in workers) and time.monotonic() < deadline:
            time.sleep(0.05)
        assert not [w for w in workers if Path(f"/proc/{w}").exists()]
    with stage, Harquel(stage.url, stage.token) as client:
        verified = client.verify_ledger()
        assert verified.intact
        for key in keys:
            inquiry = client.inquiry(key)
            assert (inquiry.state, inquiry.outcome) == ("ended", "failed")
            assert inquiry.problem is not None
            assert inquiry.problem.type == "service-stopped"
            assert [e.kind for e in client.events(key)][-1] == "ended"
        assert client.inquiry(before.id) == before
        assert client.ask(QUESTION, "ferries").outcome == "answered"


def test_a_stop_ends_what_is_under_way_and_keeps_it(new_stage: MakeStage, tmp_path: Path) -> None:
    stage = new_stage(tmp_path / "stop", pace_s=0.5)
    with stage, Harquel(stage.url, stage.token) as client:
        key = client.ask(QUESTION, "ferries", wait_s=0).id
    with stage, Harquel(stage.url, stage.token) as client:
        assert client.inquiry(key).state == "ended"
        assert client.verify_ledger().intact


# Only the two entries that are tampered with are put aside: the service may be writing others meanwhile.
KEEP = """
    CREATE TABLE kept AS SELECT * FROM ledger_entry WHERE seq IN (5, 6);
    CREATE TABLE kept_text AS SELECT * FROM ledger_entrytext WHERE entry_id IN (5, 6);
"""
RESTORE = """
    DELETE FROM ledger_entrytext WHERE entry_id IN (5, 6); DELETE FROM ledger_entry WHERE seq IN (-5, 5, 6, 5000);
    INSERT INTO ledger_entry SELECT * FROM kept; INSERT INTO ledger_entrytext SELECT * FROM kept_text;
    DROP TABLE kept; DROP TABLE kept_text;
"""
TAMPERING = {
    "body": (
        "UPDATE ledger_entry SET body = CAST(REPLACE(CAST(body AS TEXT), '\"v\":1', '\"v\":2') AS BLOB) WHERE seq = 5"
    ),
    "digest": "UPDATE ledger_entry SET digest = 'x' WHERE seq = 5",
    "time": "UPDATE ledger_entry SET at = 'x' WHERE seq = 5",
    "person": "UPDATE ledger_entry SET who = 'x' WHERE seq = 5",
    "kind": "UPDATE ledger_entry SET kind = 'x' WHERE seq = 5",
    "inquiry": "UPDATE ledger_entry SET inquiry = 'x' WHERE seq = 5",
    "text": "UPDATE ledger_entrytext SET text = text || ' ' WHERE entry_id = 5",
    "salt": "UPDATE ledger_entrytext SET salt = 'ff' WHERE entry_id = 5",
    "text's digest": "UPDATE ledger_entrytext SET digest = 'x' WHERE entry_id = 5",
    "text's name": "UPDATE ledger_entrytext SET name = 'x' WHERE entry_id = 5",
    "removal": "DELETE FROM ledger_entrytext WHERE entry_id = 5; DELETE FROM ledger_entry WHERE seq = 5",
    "addition": (
        "INSERT INTO ledger_entry (seq, digest, body, at, who, kind, inquiry)"
        " SELECT 5000, digest, body, at, who, kind, inquiry FROM ledger_entry WHERE seq = 5"
    ),
    "order": (
        "UPDATE ledger_entry SET seq = -5 WHERE seq = 5; UPDATE ledger_entry SET seq = 5 WHERE seq = 6;"
        "UPDATE ledger_entry SET seq = 6 WHERE seq = -5"
    ),
}


def still_for(client: Harquel, quiet_s: float) -> LedgerHead:
    """The head of the ledger, once nothing was appended for a while: starters are tried in the background."""
    head, since = client.verify_ledger().head, time.monotonic()
    deadline = since + 60
    while time.monotonic() - since < quiet_s and time.monotonic() < deadline:
        time.sleep(0.2)
        if (now := client.verify_ledger().head) != head:
            head, since = now, time.monotonic()
    return head


def test_any_tampering_with_the_records_is_found_and_the_entry_named(new_stage: MakeStage, tmp_path: Path) -> None:
    with new_stage(tmp_path / "tamper") as stage, Harquel(stage.url, stage.token) as client:
        client.ask(QUESTION, "ferries")
        records = stage.folder / "records" / "records.db"
        still_for(client, 2.0)
        command = ("ledger", "verify", "--url", stage.url, "--token", stage.token)
        assert run(*command).returncode == 0
        for name, sql in TAMPERING.items():
            with sqlite3.connect(records) as connection:
                connection.executescript(f"PRAGMA foreign_keys = OFF; {KEEP}; {sql}")
            connection.close()
            entry = 5000 if name == "addition" else 5
            found = client.verify_ledger()
            assert (found.intact, found.fault_seq) == (False, entry), (name, found)
            if name == "body":
                done = run(*command)
                assert done.returncode == 1
                assert f"broken at entry {entry}" in done.stdout, done.stdout
            with sqlite3.connect(records) as connection:
                connection.executescript(f"PRAGMA foreign_keys = OFF; {RESTORE}")
            connection.close()
            assert client.verify_ledger().intact
        anchor = still_for(client, 2.0)
        with sqlite3.connect(records) as connection:
            connection.execute("DELETE FROM ledger_entry WHERE seq = (SELECT MAX(seq) FROM ledger_entry)")
        connection.close()
        found = client.verify_ledger()
        assert (found.intact, found.fault_seq) == (False, anchor.seq)


def test_the_socket_is_free_again_after_a_stop(new_stage: MakeStage, tmp_path: Path) -> None:
    stage = new_stage(tmp_path / "again")
    with stage:
        pass
    host, port = stage.bind.split(":")
    with socket.socket() as sock:
        sock.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        sock.bind((host, int(port)))


def test_a_standstill_outlives_the_service(new_stage: MakeStage, tmp_path: Path) -> None:
    """Who has stopped everything must not find it running because the machine was started anew."""
    with new_stage(tmp_path) as stage, Harquel(stage.url, stage.token) as client:
        client.send(calls.standstill(True))
    with new_stage(tmp_path) as stage, Harquel(stage.url, stage.token) as client:
        assert client.send(calls.standstill(None)).on
        ended = client.ask(QUESTION, "ferries")
        assert (ended.outcome, ended.problem.type if ended.problem else "") == ("refused", "standstill")
        client.send(calls.standstill(False))
        assert client.ask(QUESTION, "ferries").outcome == "answered"
    with new_stage(tmp_path) as stage, Harquel(stage.url, stage.token) as client:
        assert not client.send(calls.standstill(None)).on
