"""An old answer, again: what is said of rows that have come, gone or moved; and that no model is asked for it."""

from __future__ import annotations

import datetime as dt
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from harquel.core.answers.since import since
from harquel.core.domain.again import Before
from harquel.core.domain.inquiry import ResultColumn, ResultTable

AT = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)
ROUTE, EUR = (
    ResultColumn(name="route", type="text"),
    ResultColumn(name="revenue_eur", type="number", unit="EUR", decimals=2),
)
COUNT = ResultColumn(name="n", type="integer")


def before(rows: list[list[Any]] | None, *columns: ResultColumn, cut: bool = False) -> Before:
    names = [c.name for c in columns]
    return Before(inquiry="a1", as_of=AT, asked_at=AT, sql="SELECT 1", columns=names, rows=rows, cut=cut)


def table(rows: list[list[Any]], *columns: ResultColumn, cut: bool = False) -> ResultTable:
    return ResultTable(columns=list(columns), rows=rows, row_count=len(rows), cut_by="rows" if cut else None)


THEN = [["QH-SR", 100.0], ["QH-GS", 50.0], ["QH-PP", 5.0]]
MORE = "QH-SR: revenue 101.00 EUR, 1.00 EUR (1.0 %) more than then (100.00 EUR)."
HEAD = "Since 14 September 2026, 10:00: "


@pytest.mark.parametrize(
    ("now", "said", "counts"),
    [
        ([*THEN[1:], ["QH-SR", 100.0000000001]], "The same as on 14 September 2026, 10:00.", (0, 0, 0)),
        ([["QH-SR", 101.0], *THEN[1:]], HEAD + MORE, (0, 0, 1)),
        ([*THEN[:2], ["QH-WE", 7.0]], HEAD + "one row has come (QH-WE); one row is gone (QH-PP).", (1, 1, 0)),
        ([["QH-SR", None], *THEN[1:]], HEAD + "QH-SR: revenue no value, then 100.00 EUR.", (0, 0, 1)),
        ([], HEAD + "3 rows are gone (QH-SR, QH-GS, QH-PP).", (0, 3, 0)),
    ],
)  # fmt: skip
def test_what_has_changed_is_said(now: list[list[Any]], said: str, counts: tuple[int, int, int]) -> None:
    found = since(before(THEN, ROUTE, EUR), table(now, ROUTE, EUR), "en")
    assert (found.said, (found.come, found.gone, found.changed)) == (said, counts)
    assert found.same is (counts == (0, 0, 0))


def test_one_figure_says_what_it_was() -> None:
    found = since(before([[12]], COUNT), table([[11]], COUNT), "de")
    assert found.said == "Seit 14. September 2026, 10:00: n 11, 1 (8,3 %) weniger als damals (12)."


@pytest.mark.parametrize(
    ("then", "now", "same", "words"),
    [
        (before(None, ROUTE, EUR), table(THEN, ROUTE, EUR), None, "kept no more"),
        (before(THEN, ROUTE, COUNT), table(THEN, ROUTE, EUR), None, "Other columns come now"),
        (before(THEN, ROUTE, EUR, cut=True), table(THEN, ROUTE, EUR), True, "which are not all"),
        (before([["A", 1], ["A", 2]], ROUTE, COUNT), table([["A", 1], ["A", 3]], ROUTE, COUNT), False, "has come"),
    ],
)  # fmt: skip
def test_what_cannot_be_compared_is_said(then: Before, now: ResultTable, same: bool | None, words: str) -> None:
    found = since(then, now, "en")
    assert found.same is same
    assert words in found.said


CELL = st.one_of(st.none(), st.integers(-3, 3), st.floats(allow_nan=False), st.text(max_size=4), st.booleans())
ROWS = st.lists(st.tuples(st.text(max_size=2), CELL, CELL).map(list), max_size=6)


@settings(max_examples=200, deadline=None)
@given(then=ROWS, now=ROWS)
def test_rows_are_the_same_just_where_nothing_is_said_to_differ(then: list[list[Any]], now: list[list[Any]]) -> None:
    columns = (ROUTE, EUR, ResultColumn(name="more", type="text"))
    found = since(before(then, *columns), table(now, *columns), "en")
    assert len(now) - len(then) == found.come - found.gone
    assert found.same is not bool(found.come or found.gone or found.changed)
    assert since(before(now, *columns), table(list(reversed(now)), *columns), "en").same
