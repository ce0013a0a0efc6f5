"""What is too large to be judged is refused before it keeps others waiting; what is judged, is judged soon."""

from __future__ import annotations

from pathlib import Path

import pytest
from benchmarks.adversarial import timed

from harquel.core.domain.policy import Personal, Policy
from harquel.core.domain.statements import DraftedStatement
from harquel.core.guard import TextRuling, rule_on_text
from harquel.testing.sources import scanned


def ruled(sql: str, path: Path, policy: Policy | None = None) -> TextRuling:
    return rule_on_text(DraftedStatement(sql), "sqlite", scanned(path), policy or Policy())


@pytest.mark.parametrize("kind", ["stars", "joins by using", "scalar subqueries", "ctes that double", "functions"])
def test_no_text_within_the_limits_takes_long_to_judge(kind: str, ferries: Path) -> None:
    """`make bench` prints the worst over many more; here a bound that only a quadratic step could break."""
    assert max(seconds for _, seconds in timed(ferries.parent, kind)) < 5


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT " + ", ".join(["c.*"] * 2000) + " FROM customer c",
        "SELECT " + ", ".join(["c.*"] * 300) + " FROM customer c",
        "SELECT " + "COALESCE(" * 200 + "1" + ")" * 200,
        "SELECT 1 FROM customer a" + " CROSS JOIN customer" * 200,
    ],
    ids=["stars", "stars written out", "functions in functions", "joins"],
)
def test_what_is_too_large_is_refused_with_a_word_what_to_do(sql: str, ferries: Path) -> None:
    found = ruled(sql, ferries)
    assert (found.ruling.verdict, found.findings[0].rule) == ("refuse", "too-long")
    assert "range" in found.findings[0].hint


def test_a_long_list_of_values_is_still_judged(ferries: Path) -> None:
    many = ", ".join(map(str, range(1000)))
    assert ruled(f"SELECT COUNT(*) FROM customer WHERE id IN ({many})", ferries).statement is not None


def test_a_star_that_stands_for_nothing_does_not_reach_the_database(ferries: Path) -> None:
    policy = Policy(personal=Personal(columns=("harbour.*",), treatment="count"))
    for sql in ("SELECT h.*, 1 AS x FROM harbour h", "SELECT h.* FROM harbour h"):
        found = ruled(sql, ferries, policy)
        assert found.statement is None or "*" not in found.statement.sql
