"""The demo world: the same on every run, whole, and with its quirks."""

from __future__ import annotations

import hashlib
import sqlite3
from pathlib import Path

import pytest

from harquel.demo.world import TABLES, World


@pytest.fixture(scope="module")
def db(ferries: Path) -> sqlite3.Connection:
    return sqlite3.connect(f"file:{ferries}?mode=ro", uri=True, check_same_thread=False)


def one(db: sqlite3.Connection, sql: str) -> object:
    return db.execute(sql).fetchone()[0]


def test_two_runs_give_the_same_rows() -> None:
    def digest() -> str:
        made = hashlib.sha256()
        for name, rows in World(scale=0.2).tables():
            for row in rows:
                made.update(repr((name, row)).encode())
        return made.hexdigest()

    assert digest() == digest()


def test_every_table_is_filled_and_every_key_leads_somewhere(db: sqlite3.Connection) -> None:
    total = 0
    for table in TABLES:
        count = one(db, f'SELECT COUNT(*) FROM "{table.name}"')
        assert isinstance(count, int)
        assert count > 0, table.name
        total += count
    assert 90_000 < total < 160_000
    assert db.execute("PRAGMA foreign_key_check").fetchall() == []
    assert one(db, "PRAGMA integrity_check") == "ok"


QUIRKS = {
    "exactly one route touches Pell Point": (
        "SELECT COUNT(*) FROM route WHERE 3 IN (from_harbour_id, to_harbour_id)", 1),
    "one vessel is retired": ("SELECT COUNT(*) FROM vessel WHERE status = 'retired'", 1),
    "two incident notes give orders": (
        "SELECT COUNT(*) FROM incident WHERE note LIKE '%previous instructions%' OR note LIKE 'SYSTEM:%'", 2),
    "nothing actual lies after now": (
        "SELECT COUNT(*) FROM sailing WHERE MAX(COALESCE(actual_departure, ''), COALESCE(actual_arrival, ''))"
        " > '2026-09-14 10:00:00'", 0),
    "no weather after now": ("SELECT COUNT(*) FROM weather_reading WHERE measured_at > '2026-09-14 10:00:00'", 0),
    "every sailing that is made has one mate": (
        "SELECT COUNT(*) - COUNT(DISTINCT sailing_id) FROM crew_shift WHERE role = 'mate'", 0),
    "totals are the sum of their items": (
        "SELECT COUNT(*) FROM booking b WHERE total_cents <> (SELECT SUM(amount_cents) FROM booking_item i"
        " WHERE i.booking_id = b.id)", 0),
    "mail addresses are made up": ("SELECT COUNT(*) FROM customer WHERE email NOT LIKE '%.example'", 0),
    "the archive ends before the rest begins": (
        "SELECT COUNT(*) FROM sailing_archive WHERE scheduled_departure >= '2025-01-01'", 0),
}  # fmt: skip


@pytest.mark.parametrize("quirk", QUIRKS)
def test_quirks(quirk: str, db: sqlite3.Connection) -> None:
    sql, wanted = QUIRKS[quirk]
    assert one(db, sql) == wanted


@pytest.mark.parametrize("quirk", ["channel", "wind gaps", "soft deletes", "several payments", "staff"])
def test_there_is_some_of_each(quirk: str, db: sqlite3.Connection) -> None:
    sql = {
        "channel": "SELECT COUNT(*) FROM booking WHERE channel IS NULL",
        "wind gaps": "SELECT 8 * 8 * 621 - COUNT(*) FROM weather_reading",
        "soft deletes": "SELECT COUNT(*) FROM customer WHERE deleted_at IS NOT NULL",
        "several payments": "SELECT COUNT(*) FROM (SELECT 1 FROM payment GROUP BY booking_id HAVING COUNT(*) > 1)",
        "staff": "SELECT COUNT(*) FROM customer WHERE is_staff",
    }[quirk]
    found = one(db, sql)
    assert isinstance(found, int)
    assert found > 10


def test_the_dashboard_agrees_with_the_tables(db: sqlite3.Connection) -> None:
    by_view = one(db, "SELECT ROUND(SUM(revenue_eur), 2) FROM route_day WHERE day LIKE '2026-08%'")
    by_hand = one(
        db,
        "SELECT ROUND(SUM(b.total_cents) / 100.0, 2) FROM booking b JOIN sailing s ON s.id = b.sailing_id"
        " JOIN customer c ON c.id = b.customer_id WHERE b.status = 'confirmed' AND NOT c.is_staff"
        " AND s.scheduled_departure LIKE '2026-08%'",
    )
    assert by_view == by_hand


def test_the_scale_multiplies_trade() -> None:
    small, large = (sum(1 for name, rows in World(s).tables() if name == "booking" for _ in rows) for s in (0.05, 0.15))
    assert 2.5 * small < large < 3.5 * small
    with pytest.raises(ValueError, match="scale"):
        World(0)
