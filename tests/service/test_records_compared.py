"""Whoever edits the records behind the service's back is found out: the ledger knows what people were shown."""

from __future__ import annotations

import hashlib
import json
import sqlite3
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
import rfc8785

from harquel.client import Harquel, calls
from harquel.client.describing import replace_document
from harquel.demo.stage import Stage


@pytest.fixture(scope="module")
def own(new_stage: Callable[..., Stage], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Stage]:
    with new_stage(tmp_path_factory.mktemp("compared")) as running:
        with Harquel(running.url, running.token) as admin:
            admin.ask("Which five routes earned most this year?", "ferries")
            admin.ask("How many vessels are there?", "ferries")
            admin.send(replace_document("ferries", "policy", "limits: {rows: 100}"))
            admin.revoke_token(admin.create_token("old", "Bo Quayle", ["*"], ["ask"]).id)
        yield running


# What is done, and what is then said.
BEHIND_ITS_BACK = {
    "answer": ("UPDATE inquiries_storedinquiry SET record = json_set(record, '$.answer.text', 'Nothing.')", "answer"),
    "sql": ("UPDATE inquiries_storedinquiry SET record = json_set(record, '$.answer.sql', 'SELECT 1')", "record"),
    "caveats": ("UPDATE inquiries_storedinquiry SET record = json_set(record, '$.answer.caveats', '[]')", "record"),
    "rows": ("UPDATE inquiries_resultrows SET rows = '[[1]]'", "rows were changed"),
    "question": ("UPDATE inquiries_storedinquiry SET question = 'Why?'", "question"),
    "asker": ("UPDATE inquiries_storedinquiry SET person_id = (SELECT MAX(id) FROM access_person)", "was asked by"),
    "outcome": ("UPDATE inquiries_storedinquiry SET outcome = 'refused'", "ended as answered"),
    "trust": ("UPDATE inquiries_storedinquiry SET trust = 'caution'", "ended as answered clear"),
    "source": ("UPDATE inquiries_storedinquiry SET source = 'rough'", "was asked of ferries"),
    "deleted": ("DELETE FROM inquiries_storedinquiry", "is gone"),
    "scopes": ("UPDATE access_token SET scopes = '[\"admin\"]' WHERE name = 'old'", "may do something else"),
    "values": ("UPDATE access_token SET \"values\" = '{\"islands\": \"Pell\"}'", "its values"),
    "secret": ("UPDATE access_token SET digest = 'x' || substr(digest, 2) WHERE name = 'old'", "its secret"),
    "revoked": ("UPDATE access_token SET revoked_at = NULL", "counts again"),
    "expiry": ("UPDATE access_token SET expires_at = '2099-01-01' WHERE name = 'old'", "at another time"),
    "policy": ("UPDATE sources_sourcedocument SET text = 'limits: {rows: 9}' WHERE kind = 'policy'", "was changed"),
    "rows gone": ("DELETE FROM inquiries_resultrows", "rows are gone"),
    "version": ("DELETE FROM sources_sourcedocument WHERE kind = 'policy' AND origin = 'import'", "is gone"),
}  # fmt: skip


@pytest.mark.parametrize("name", BEHIND_ITS_BACK)
def test_what_is_changed_behind_its_back_is_named(name: str, own: Stage) -> None:
    sql, said = BEHIND_ITS_BACK[name]
    records = own.folder / "records" / "records.db"
    tables = ("inquiries_storedinquiry", "inquiries_resultrows", "access_token", "sources_sourcedocument")
    with Harquel(own.url, own.token) as admin:
        before = admin.verify_ledger()
        assert before.intact, before
        assert before.compared > 5
        with sqlite3.connect(records, timeout=20) as connection:
            connection.execute("PRAGMA foreign_keys = OFF")
            kept = {t: connection.execute(f"SELECT * FROM {t}").fetchall() for t in tables}
            connection.execute(sql)
        connection.close()
        try:
            # The token that asks may be one of those that were changed.
            found = admin.verify_ledger()
        finally:
            _restore(records, kept)
        assert not found.intact
        assert found.fault is None
        assert any(said in d.said for d in found.differences), found.differences
        assert admin.verify_ledger().intact


def _restore(records: Path, kept: dict[str, list[tuple[object, ...]]]) -> None:
    for _ in range(20):
        try:
            with sqlite3.connect(records, timeout=20) as connection:
                connection.execute("PRAGMA foreign_keys = OFF")
                for table, rows in kept.items():
                    for row in rows:
                        marks = ", ".join("?" * len(row))
                        connection.execute(f"INSERT OR REPLACE INTO {table} VALUES ({marks})", row)
            return
        except sqlite3.OperationalError:
            time.sleep(0.2)
        finally:
            connection.close()
    raise AssertionError("the records could not be restored")


def test_an_inquiry_without_an_entry_is_named(own: Stage) -> None:
    records = own.folder / "records" / "records.db"
    with Harquel(own.url, own.token) as admin:
        with sqlite3.connect(records, timeout=20) as connection:
            first = "SELECT MIN(id) FROM inquiries_storedinquiry"
            connection.execute(f"UPDATE inquiries_storedinquiry SET key = 'made-up' WHERE id = ({first})")
        connection.close()
        said = {d.id: d.said for d in admin.verify_ledger().differences}
        assert said.pop("made-up") == "has no entry in the ledger"
        ((gone, why),) = said.items()
        assert why == "has an entry in the ledger and is gone"
        with sqlite3.connect(records, timeout=20) as connection:
            connection.execute("UPDATE inquiries_storedinquiry SET key = ? WHERE key = 'made-up'", (gone,))
        connection.close()


def test_broken_bytes_do_not_break_the_check(own: Stage) -> None:
    records = own.folder / "records" / "records.db"
    with Harquel(own.url, own.token) as admin:
        with sqlite3.connect(records, timeout=20) as connection:
            (created,) = connection.execute("SELECT MIN(seq) FROM ledger_entry WHERE kind = 'token-created'").fetchone()
        connection.close()
        for body in ("x'00ff'", "'text'", "x'5b5d'", "x'7b7d'", "7"):
            with sqlite3.connect(records, timeout=20) as connection:
                (kept,) = connection.execute(f"SELECT body FROM ledger_entry WHERE seq = {created}").fetchone()
                connection.execute(f"UPDATE ledger_entry SET body = {body} WHERE seq = {created}")
            connection.close()
            found = admin.verify_ledger()
            assert (found.intact, found.fault_seq) == (False, created), body
            with sqlite3.connect(records, timeout=20) as connection:
                connection.execute("UPDATE ledger_entry SET body = ? WHERE seq = ?", (kept, created))
            connection.close()


def test_a_new_key_leaves_the_old_seals_good(own: Stage) -> None:
    with Harquel(own.url, own.token) as admin:
        before = admin.send(calls.ledger_keys()).root
        after = admin.send(calls.change_ledger_key()).root
        assert [k.name for k in after[1:]] == [k.name for k in before]
        assert (own.folder / "ledger.key").stat().st_mode & 0o077 == 0
        found = admin.verify_ledger()
        assert found.keys[0] == after[0].name
        assert found.sealed == found.head.seq or found.unseen


def test_taking_every_seal_away_is_missed(own: Stage) -> None:
    records = own.folder / "records" / "records.db"
    with Harquel(own.url, own.token) as admin:
        with sqlite3.connect(records, timeout=20) as connection:
            kept = connection.execute("SELECT * FROM ledger_storedseal").fetchall()
            connection.execute("DELETE FROM ledger_storedseal")
        connection.close()
        found = admin.verify_ledger()
        assert (found.intact, found.fault) == (False, "its seal was taken away")
        with sqlite3.connect(records, timeout=20) as connection:
            marks = ", ".join("?" * len(kept[0]))
            connection.executemany(f"INSERT OR REPLACE INTO ledger_storedseal VALUES ({marks})", kept)
        connection.close()
        assert admin.verify_ledger().intact


def test_a_tail_that_was_written_anew_breaks_its_seal(own: Stage) -> None:
    """Somebody who can write to the records makes a chain that holds from some entry on; the seals tell. Comes last."""
    records = own.folder / "records" / "records.db"
    with Harquel(own.url, own.token) as admin:
        sealed = admin.send(calls.seal_ledger())
        found = admin.verify_ledger()
        assert found.intact, found
        assert found.sealed is not None
        assert found.sealed >= sealed.seq
        with sqlite3.connect(records, timeout=20) as connection:
            connection.execute("PRAGMA foreign_keys = OFF")
            connection.execute("BEGIN IMMEDIATE")
            _rewrite(connection, sealed.seq - 2)
        connection.close()
        found = admin.verify_ledger()
        assert (found.intact, found.fault) == (False, "it is not the entry that was sealed"), found


def _rewrite(connection: sqlite3.Connection, start: int) -> None:
    """Another asker in entry `start`, and every digest from there on made anew."""
    previous = None
    for seq, body in connection.execute(
        "SELECT seq, body FROM ledger_entry WHERE seq >= ? ORDER BY seq", (start,)
    ).fetchall():
        entry = json.loads(body)
        if previous is None:
            entry["who"] = "Nobody"
        else:
            entry["prev"] = previous
        made = rfc8785.dumps(entry)
        previous = hashlib.sha256(made).hexdigest()
        connection.execute(
            "UPDATE ledger_entry SET body = ?, digest = ?, who = ? WHERE seq = ?", (made, previous, entry["who"], seq)
        )
    connection.execute("UPDATE ledger_head SET digest = ?", (previous,))
