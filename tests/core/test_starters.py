"""First questions that are proposed for a source, before any of them is tried."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from harquel.core.briefing import CatalogIndex
from harquel.core.curation.starters import propose_starters
from harquel.core.domain.notes import Notes
from harquel.testing.sources import demo_notes, demo_policy, scanned


def test_a_steward_s_own_come_first_then_examples_then_shapes(ferries: Path) -> None:
    policy = demo_policy()
    index = CatalogIndex.build(policy.visible(scanned(ferries, policy)), demo_notes(), policy)
    found = propose_starters(index, ["Where is Brightwater?"], ["How much was refunded?"])
    assert found[:2] == ["Where is Brightwater?", "How much was refunded?"]
    assert "Revenue per month this year" in found
    assert "Top 5 routes by revenue" in found
    assert len(found) == len(set(found)) <= 16


def test_rows_are_not_grouped_by_what_tells_them_apart(tmp_path: Path) -> None:
    database = tmp_path / "lamps.db"
    with sqlite3.connect(database) as connection:
        connection.execute("CREATE TABLE lamp (id INTEGER PRIMARY KEY, name TEXT, colour TEXT)")
        rows = [(f"lamp {n}", ("amber", "green")[n % 2]) for n in range(8)]
        connection.executemany("INSERT INTO lamp (name, colour) VALUES (?, ?)", rows)
    connection.close()
    policy = demo_policy()
    index = CatalogIndex.build(policy.visible(scanned(database, policy)), Notes(), policy)
    assert propose_starters(index, [], []) == ["How many lamps are there?", "How many lamps per colour?"]
