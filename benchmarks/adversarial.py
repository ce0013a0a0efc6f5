"""Texts that make a reader of SQL slow: the worst of guard and review together. Within the limits: at most 1 s."""

from __future__ import annotations

import datetime as dt
import time
from collections.abc import Iterator
from itertools import product
from pathlib import Path

from benchmarks.figure import Figure
from harquel.core.answers import read_back
from harquel.core.briefing import CatalogIndex
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Policy, RowRule
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import rule_on_text
from harquel.core.review import review_draft
from harquel.core.review.statement import statement_of
from harquel.testing.sources import demo_notes, scanned

MOST = 60_000


def texts() -> Iterator[tuple[str, str]]:
    """Name and statement: each kind as long as the limit allows, and at a few lengths below it."""
    for size in (4_000, 12_000, 59_000):
        for name, head, piece, tail in KINDS:
            count = max(1, (size - len(head) - len(tail)) // max(1, len(piece.format(i=1000, j=999))))
            middle = "".join(piece.format(i=i, j=max(0, i - 1)) for i in range(1, count + 1))
            yield f"{name}, {size:,}", head + middle + tail
        for name, opens, inner, closes in NESTS:
            deep = (size - len(inner)) // (len(opens) + len(closes))
            for depth in {min(deep, 40), min(deep, 200), deep}:
                yield f"{name}, {depth} deep", opens * depth + inner + closes * depth


KINDS = (
    ("stars", "SELECT c.*", ", c.*", " FROM customer c"),
    ("stars of many", "SELECT * FROM booking a0", ", booking a{i}", ""),
    ("columns", "SELECT c.id", ", c.name AS a{i}", " FROM customer c"),
    ("columns without table", "SELECT id", ", name AS a{i}", " FROM customer"),
    ("tables", "SELECT a0.id FROM customer a0", ", customer a{i}", ""),
    ("joins", "SELECT a0.id FROM customer a0", " JOIN customer a{i} ON a{i}.id = a{j}.id", ""),
    ("joins by using", "SELECT COUNT(*) FROM customer a0", " JOIN customer a{i} USING (id)", ""),
    ("bare columns", "SELECT total_cents FROM booking b", " JOIN customer a{i} ON customer_id = a{i}.id", ""),
    ("unions", "SELECT id FROM customer", " UNION SELECT id FROM customer", ""),
    ("a list", "SELECT id FROM customer WHERE id IN (0", ", {i}", ")"),
    ("texts in a list", "SELECT id FROM customer WHERE name IN ('a'", ", 'x{i}'", ")"),
    ("ands", "SELECT id FROM customer WHERE id > 0", " AND id <> {i}", ""),
    ("ors", "SELECT id FROM customer WHERE id > 0", " OR name = 'x{i}'", ""),
    ("sums", "SELECT 0", " + {i}", " FROM customer"),
    ("cases", "SELECT 0", ", SUM(CASE WHEN status = 'x{i}' THEN 1 ELSE 0 END) AS s{i}", " FROM booking"),
    ("one long case", "SELECT CASE", " WHEN id = {i} THEN 'a'", " END FROM customer"),
    ("ctes in a chain", "WITH c0 AS (SELECT id FROM customer)", ", c{i} AS (SELECT id FROM c{j})",
     " SELECT id FROM c1"),
    ("ctes that double", "WITH c0 AS (SELECT id FROM customer)", ", c{i} AS (SELECT a.id FROM c{j} a, c{j} b)",
     " SELECT id FROM c1"),
    ("ctes of stars", "WITH c0 AS (SELECT * FROM customer)", ", c{i} AS (SELECT * FROM c{j})", " SELECT id FROM c1"),
    ("stars that double", "WITH c0 AS (SELECT * FROM customer)", ", c{i} AS (SELECT a.*, b.* FROM c{j} a, c{j} b)",
     " SELECT 1 FROM c1"),
    ("exists", "SELECT id FROM customer c WHERE 1=1", " AND EXISTS (SELECT 1 FROM booking b WHERE b.id = c.id)", ""),
    ("scalar subqueries", "SELECT 1", ", (SELECT MAX(id) FROM booking) AS m{i}", " FROM customer"),
    ("groups", "SELECT COUNT(*) FROM customer GROUP BY id", ", name", ""),
    ("orders", "SELECT id FROM customer ORDER BY id", ", name DESC", ""),
    ("windows", "SELECT id", ", SUM(id) OVER (ORDER BY id) AS w{i}", " FROM customer"),
    ("dates", "SELECT id FROM customer WHERE 1=1", " AND joined_on >= '2026-01-01'", ""),
    ("likes", "SELECT id FROM customer WHERE 1=1", " AND name LIKE '%a{i}%'", ""),
    ("joined texts", "SELECT name", " || 'a'", " FROM customer"),
    ("arguments", "SELECT COALESCE(name", ", 'a{i}'", ") FROM customer"),
    ("unknown columns", "SELECT id", ", nmae{i}", " FROM customer"),
    ("unknown tables", "SELECT 1 FROM customer", ", custmer{i}", ""),
    ("spaces", "SELECT id FROM customer", " ", ""),
    ("comments", "SELECT id FROM customer", "/**/ ", ""),
    ("quotes", "SELECT '", "''", "' FROM customer"),
    ("commas", "SELECT id", ",", " FROM customer"),
    ("statements", "SELECT 1", ";SELECT 1", ""),
    ("values", "SELECT * FROM (VALUES (0)", ", ({i})", ") AS v"),
    ("between", "SELECT id FROM customer WHERE 1=1", " AND id BETWEEN {j} AND {i}", ""),
    ("nots", "SELECT id FROM customer WHERE ", "NOT ", "id = 1"),
    ("minuses", "SELECT ", "- ", "1 FROM customer"),
)  # fmt: skip
NESTS = (
    ("parentheses", "(", "SELECT 1", ")"),
    ("parentheses around a value", "SELECT " + "(", "1", ")"),
    ("subqueries", "SELECT id FROM (", "SELECT id FROM customer", ") AS q"),
    ("functions", "COALESCE(", "1", ", 2)"),
    ("scalars", "SELECT (", "SELECT MAX(id) FROM customer", ")"),
    ("ins", "SELECT id FROM customer WHERE id IN (", "SELECT id FROM customer", ")"),
    ("withs", "WITH c AS (", "SELECT id FROM customer", ") SELECT id FROM c"),
    ("joins in parentheses", "SELECT COUNT(*) FROM (customer a1 JOIN ", "customer", " ON 1 = 1)"),
    ("cases", "SELECT CASE WHEN 1 = 1 THEN (", "SELECT 1", ") END"),
)


def measure(folder: Path) -> list[Figure]:
    """The worst of guard and review over all texts."""
    worst, name = max((seconds, name) for name, seconds in timed(folder))
    return [Figure(f"guard and review, worst text ({name})", worst * 1000, "ms", 1000.0, "the goal")]


def timed(folder: Path, only: str = "") -> Iterator[tuple[str, float]]:
    """Name and processor seconds of each text whose name begins with `only`."""
    policy = Policy(
        rows=(RowRule(table="customer", where="home_harbour IN (SELECT id FROM harbour)", roles=("clerk",)),)
    )
    scan = scanned(folder / "ferries.db", policy)
    index = CatalogIndex.build(policy.visible(scan), demo_notes(), policy)
    now = dt.datetime(2026, 9, 14, tzinfo=dt.UTC)
    clerk = Person("Ada Brinewell", frozenset({"clerk"}))
    for (name, sql), person in product(texts(), (Person(), clerk)):
        if not name.startswith(only):
            continue
        started = time.process_time()
        ruled = rule_on_text(DraftedStatement(sql), "sqlite", index.catalog, policy, person, scan)
        if ruled.statement is not None and ruled.tree is not None:
            review_draft(ruled.tree, index, now)
            read_back(statement_of(ruled.tree, index.catalog), index.notes)
        yield f"{name}, restricted" if person.roles else name, time.process_time() - started
