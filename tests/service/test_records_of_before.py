"""Records that an earlier release wrote: they open, are brought up to date, and their ledger holds."""

from __future__ import annotations

import gzip
import shutil
import sqlite3
from collections.abc import Callable
from pathlib import Path

from harquel.client import Harquel
from harquel.demo.stage import Stage
from tests.conftest import DATA
from tests.service.test_records import in_django


def test_records_of_before_open_and_their_ledger_holds(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    """Made by the last landing before seals and ends of tokens: an answer, a refusal, a held statement, documents."""
    records = tmp_path / "old" / "records"
    records.mkdir(parents=True)
    (records / "records.db").write_bytes(gzip.decompress((DATA / "records_of_0.1.0_before_seals.db.gz").read_bytes()))
    with new_stage(tmp_path / "old") as stage, Harquel(stage.url, stage.token) as client:
        found = client.verify_ledger()
        assert found.intact, found
        assert found.compared > 8
        lines = {i.question: i for i in client.inquiries(limit=50).items}
        assert {(i.state, i.outcome) for i in lines.values()} >= {
            ("ended", "answered"), ("ended", "refused"), ("ended", "unanswerable"), ("held", None),
        }  # fmt: skip
        old = client.inquiry(lines["Which five routes earned most this year?"].id)
        assert old.answer is not None
        assert len(old.answer.table.rows) == 5
        assert old.attempts
        assert (tmp_path / "old" / "records" / "records.before-upgrade.db").exists()
        assert client.ask("How many vessels are there?", "ferries").outcome == "answered"
        assert client.verify_ledger().intact


def test_new_records_and_ones_brought_up_to_date_are_built_alike(tmp_path: Path) -> None:
    """New ones are made in one go, old ones step by step: both must end with the same tables, columns and keys."""
    new, old = tmp_path / "new", tmp_path / "old"
    for folder in (new, old):
        folder.mkdir()
    (old / "records.db").write_bytes(gzip.decompress((DATA / "records_of_0.1.0_before_seals.db.gz").read_bytes()))
    built = []
    for folder in (new, old):
        in_django(folder, "bring_up_to_date(records)")
        with sqlite3.connect(folder / "records.db") as connection:
            tables = [n for (n,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
            built.append({
                name: [
                    sorted((c[1:6] for c in connection.execute(f"PRAGMA table_info('{name}')")), key=repr),
                    sorted((k[2:] for k in connection.execute(f"PRAGMA foreign_key_list('{name}')")), key=repr),
                    sorted(
                        (index[2:4], [c[2] for c in connection.execute(f"PRAGMA index_info('{index[1]}')")])
                        for index in connection.execute(f"PRAGMA index_list('{name}')")
                    ),
                ]
                for name in tables
            })  # fmt: skip
        connection.close()
    assert built[0] == built[1]
    assert len(built[0]) > 10


def test_records_without_a_version_open_and_are_kept_with_one_from_now_on(
    new_stage: Callable[..., Stage], tmp_path: Path
) -> None:
    """Made by the last landing before inquiries were kept with a version: answers of three sources, a refusal."""
    records = tmp_path / "old" / "records"
    records.mkdir(parents=True)
    packed = (DATA / "records_of_0.1.0_before_versions.db.gz").read_bytes()
    (records / "records.db").write_bytes(gzip.decompress(packed))
    # The key that sealed them, and nothing else ever.
    shutil.copyfile(DATA / "records_of_0.1.0_before_versions.key", tmp_path / "old" / "ledger.key")
    (tmp_path / "old" / "ledger.key").chmod(0o600)
    with new_stage(tmp_path / "old") as stage, Harquel(stage.url, stage.token) as client:
        found = client.verify_ledger()
        assert (found.intact, found.differences) == (True, []), found
        lines = [i for i in client.inquiries(limit=50).items if i.asked_by == "Ada Brinewell"]
        assert {i.outcome for i in lines} == {"answered", "refused", "unanswerable"}
        for line in lines:
            inquiry = client.inquiry(line.id)
            assert (inquiry.id, bool(inquiry.attempts), bool(inquiry.timings.total_ms)) == (line.id, True, True)
            assert (inquiry.answer is not None) == (inquiry.outcome == "answered")
        made = client.ask("How many vessels are there?", "ferries")
        assert client.verify_ledger().intact
    with sqlite3.connect(records / "records.db") as connection:
        kept = dict(connection.execute("SELECT key, json_extract(record, '$.v') FROM inquiries_storedinquiry"))
    assert kept.pop(made.id) == 2
    assert {kept[line.id] for line in lines} == {None}
