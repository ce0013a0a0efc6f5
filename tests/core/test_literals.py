"""Values of a reading as SQL: what is meant by a word, whole days, and what is no value at all."""

from __future__ import annotations

from typing import Any

import pytest
from sqlglot import exp

from harquel.core.domain.catalog import Column
from harquel.core.domain.notes import ColumnNotes
from harquel.core.reading.literals import clock, compared, equal_to, literal, moment
from harquel.core.reading.paths import NoControl

STATUS = Column("status", "TEXT", False, options=("X", "D"), samples=("X", "D", "web"))
CODES = ColumnNotes(codes={"X": "cancelled", "D": "departed"}, also={"X": ("called off", "Dropped")})
AT, DAY = Column("at", "TIMESTAMP", False), Column("day", "DATE", False)
NUMBER, FLAG = Column("n", "INTEGER", False), Column("active", "BOOLEAN", False)


@pytest.mark.parametrize(("said", "column", "meant"), [
    ("cancelled", STATUS, "X"), ("Cancelled", STATUS, "X"), ("dropped", STATUS, "X"), ("CALLED OFF", STATUS, "X"),
    ("X", STATUS, "X"), ("x", STATUS, "X"), ("WEB", STATUS, "web"), ("lost", STATUS, "lost"), (7, STATUS, "7"),
    ("7", NUMBER, 7), ("-7", NUMBER, -7), ("7.5", NUMBER, 7.5), (7, NUMBER, 7), (None, NUMBER, None),
    ("true", FLAG, True), (0, FLAG, False), ("false", FLAG, False), ("yes", FLAG, "yes"), (True, STATUS, True),
])  # fmt: skip
def test_what_of_a_column_is_meant_by_a_word(said: Any, column: Column, meant: Any) -> None:
    found = equal_to(said, column, CODES)
    assert (found, type(found)) == (meant, type(meant))


@pytest.mark.parametrize("said", ["seven", "7; DROP", "0x7", ""])
def test_what_is_no_number_is_said(said: str) -> None:
    with pytest.raises(NoControl, match="is no number"):
        equal_to(said, NUMBER, ColumnNotes())


@pytest.mark.parametrize(("how", "values", "sql"), [
    ("equal", ("2026-08-01",), "at >= '2026-08-01' AND at < '2026-08-02'"),
    ("equal", ("2026-08-01 10:00",), "at = '2026-08-01 10:00:00'"),
    ("between", ("2026-08-01", "2026-08-31"), "at >= '2026-08-01' AND at < '2026-09-01'"),
    ("between", ("2026-08-01", "2026-08-31T12:00"), "at >= '2026-08-01' AND at <= '2026-08-31 12:00:00'"),
    ("at most", ("2024-02-28",), "at < '2024-02-29'"), ("more", ("2026-12-31",), "at >= '2027-01-01'"),
    ("less", ("2026-08-01",), "at < '2026-08-01'"), ("at least", ("2026-08-01T00:00:00",), "at >= '2026-08-01'"),
    ("in", ("2026-08-01", "2026-08-03"),
     "((at >= '2026-08-01' AND at < '2026-08-02') OR (at >= '2026-08-03' AND at < '2026-08-04'))"),
])  # fmt: skip
def test_a_day_of_a_time_is_all_of_that_day(how: Any, values: tuple[str, ...], sql: str) -> None:
    assert compared(exp.column("at"), AT, how, values).sql() == sql


def test_a_day_of_a_column_of_days_is_that_day() -> None:
    for how, sign in (("equal", "="), ("at most", "<="), ("more", ">")):
        made = compared(exp.column("day"), DAY, how, ("2026-08-01",))  # type: ignore[arg-type]
        assert (
            made.sql().endswith(f"day {sign} '2026-08-01'")
            or made.sql() == "day >= '2026-08-01' AND day <= '2026-08-01'"
        )


@pytest.mark.parametrize(("column", "how", "values"), [
    (NUMBER, "equal", ()), (NUMBER, "equal", (1, 2)), (NUMBER, "between", (1,)), (NUMBER, "less", (None,)),
    (NUMBER, "in", ()), (STATUS, "like", (7,)), (AT, "like", ("2026%",)), (AT, "equal", (7,)), (AT, "equal", ("soon",)),
    (AT, "equal", ("2026-08-01T10:00Z",)), (AT, "equal", ("9999-12-31",)), (NUMBER, "equal", (float("inf"),)),
    (NUMBER, "equal", (10**40,)),
])  # fmt: skip
def test_values_that_do_not_fit_are_said(column: Column, how: Any, values: tuple[Any, ...]) -> None:
    with pytest.raises(NoControl):
        compared(exp.column("c"), column, how, values)


def test_texts_stay_texts_and_numbers_keep_their_sign() -> None:
    assert [literal(v).sql() for v in ("O'Neil' --", -3, 2.5, None, True)] == [
        "'O''Neil'' --'",
        "-3",
        "2.5",
        "NULL",
        "TRUE",
    ]
    assert [moment(t) for t in ("2026-08-01", "2026-08-01T00:00", "2026-08-01 07:05")] == [
        "2026-08-01", "2026-08-01", "2026-08-01 07:05:00",
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("said", "found"), [("7:30", "07:30"), ("07:30", "07:30"), ("23:59:00", "23:59"), ("24:00", "24:00")]
)
def test_a_time_of_day_is_hours_and_minutes(said: str, found: str) -> None:
    assert clock(said) == found


@pytest.mark.parametrize("said", ["7", "7:3", "25:00", "07:60", "7:30:15", "half past seven", 7, None, "٧:٣٠"])
def test_what_is_no_time_of_day_is_said(said: Any) -> None:
    with pytest.raises(NoControl, match="is no time of day"):
        clock(said)
