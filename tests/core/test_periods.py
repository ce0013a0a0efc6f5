"""The times that a question names, at 2026-09-14 10:00, a Monday."""

from __future__ import annotations

import datetime as dt

import pytest

from harquel.core.language.periods import EARLIEST, LATEST, periods_in

NOW = dt.datetime(2026, 9, 14, 10, 0)


def said(question: str) -> list[tuple[str, str, str]]:
    """From, up to, and the earliest end that would do as well, of each period."""

    def day(moment: dt.datetime) -> str:
        if moment in (EARLIEST, LATEST):
            return "" if moment == EARLIEST else "∞"
        return f"{moment:%Y-%m-%d}"

    return [(day(p.start), day(p.end), day(p.at_least)) for p in periods_in(question.lower(), NOW)]


@pytest.mark.parametrize(
    ("question", "start", "end"),
    [
        # the calendar
        ("sailings in 2025", "2025-01-01", "2026-01-01"),
        ("sailings in August 2026", "2026-08-01", "2026-09-01"),
        ("sailings in Aug 2026", "2026-08-01", "2026-09-01"),
        ("sailings in July", "2026-07-01", "2026-08-01"),
        ("sailings in October", "2025-10-01", "2025-11-01"),
        ("payments, this August", "2026-08-01", "2026-09-01"),
        ("payments of last May", "2026-05-01", "2026-06-01"),
        ("the second quarter of 2026", "2026-04-01", "2026-07-01"),
        ("Q3 2025", "2025-07-01", "2025-10-01"),
        ("the first half of 2026", "2026-01-01", "2026-07-01"),
        ("on 3 May 2026", "2026-05-03", "2026-05-04"),
        ("on 2026-05-03", "2026-05-03", "2026-05-04"),
        ("from June to August 2026", "2026-06-01", "2026-09-01"),
        ("between November and February 2026", "2025-11-01", "2026-03-01"),
        ("3 May to 10 July 2026", "2026-05-03", "2026-07-11"),
        ("between 1 and 15 August 2026", "2026-08-01", "2026-08-16"),
        ("from the 1st to the 15th of August 2026", "2026-08-01", "2026-08-16"),
        ("from 3 to 9 August", "2026-08-03", "2026-08-10"),
        ("from 28 December to 3 January", "2025-12-28", "2026-01-04"),
        ("from 20 November 2025 to 3 January 2026", "2025-11-20", "2026-01-04"),
        ("August 3-9, 2026", "2026-08-03", "2026-08-10"),
        ("2026-08-03 to 2026-08-09", "2026-08-03", "2026-08-10"),
        ("on Aug 3rd, 2026", "2026-08-03", "2026-08-04"),
        ("on August 3 2026", "2026-08-03", "2026-08-04"),
        ("on 3 August", "2026-08-03", "2026-08-04"),
        ("on 3 November", "2025-11-03", "2025-11-04"),
        ("the week of 12 August 2026", "2026-08-10", "2026-08-17"),
        ("in the week starting 12 August 2026", "2026-08-12", "2026-08-19"),
        ("from 2024 on", "2024-01-01", "∞"),
        ("since 3 May 2026", "2026-05-03", "∞"),
        ("before 3 May 2026", "", "2026-05-03"),
        ("in summer 2025", "2025-06-01", "2025-09-01"),
        ("in winter 2025", "2025-12-01", "2026-03-01"),
        ("summer 2025 (June to August)", "2025-06-01", "2025-09-01"),
        # around now
        ("sailings today", "2026-09-14", "2026-09-15"),
        ("sailings yesterday", "2026-09-13", "2026-09-14"),
        ("sailings tomorrow", "2026-09-15", "2026-09-16"),
        ("last week", "2026-09-07", "2026-09-14"),
        ("last month", "2026-08-01", "2026-09-01"),
        ("last quarter", "2026-04-01", "2026-07-01"),
        ("last year", "2025-01-01", "2026-01-01"),
        ("the previous month", "2026-08-01", "2026-09-01"),
        ("next week", "2026-09-21", "2026-09-28"),
        ("the last three full months", "2026-06-01", "2026-09-01"),
        ("the past two complete weeks", "2026-08-31", "2026-09-14"),
        # open on one side
        ("hired before 2020", "", "2020-01-01"),
        ("joined after 2024", "2025-01-01", "∞"),
        ("since July 2026", "2026-07-01", "∞"),
        ("since the beginning of 2026", "2026-01-01", "∞"),
        ("in 2024 or later", "2024-01-01", "∞"),
        ("in 2019 or earlier", "", "2020-01-01"),
    ],
)
def test_one_period(question: str, start: str, end: str) -> None:
    ((found, until, _),) = said(question)
    assert (found, until) == (start, end)


@pytest.mark.parametrize(
    ("question", "start", "at_least", "end"),
    [
        ("revenue this year", "2026-01-01", "2026-09-14", "2027-01-01"),
        ("revenue this month", "2026-09-01", "2026-09-14", "2026-10-01"),
        ("sailings in 2026 up to now", "2026-01-01", "2026-09-14", "2026-09-15"),
        ("sailings in 2026 so far", "2026-01-01", "2026-09-14", "2026-09-15"),
        ("bookings of 2026 to date", "2026-01-01", "2026-09-14", "2026-09-15"),
        ("incidents of the past twelve months", "2025-09-14", "2026-09-14", "2026-09-15"),
        ("incidents of the last 30 days", "2026-08-15", "2026-09-14", "2026-09-15"),
        ("orders of the next 90 days", "2026-09-14", "2026-12-13", "2026-12-14"),
    ],
)
def test_what_is_under_way_may_end_now_or_later(question: str, start: str, at_least: str, end: str) -> None:
    assert said(question) == [(start, end, at_least)]


@pytest.mark.parametrize(
    ("question", "periods"),
    [
        ("July 2026 against July 2025", [("2026-07-01", "2026-08-01"), ("2025-07-01", "2025-08-01")]),
        ("this year against last", [("2026-01-01", "2027-01-01"), ("2025-01-01", "2026-01-01")]),
        ("last month compared to the month before", [("2026-08-01", "2026-09-01"), ("2026-07-01", "2026-08-01")]),
        ("May 2026 and the month before that", [("2026-05-01", "2026-06-01"), ("2026-04-01", "2026-05-01")]),
        ("2025 compared with 2026 up to the same day", [("2025-01-01", "2025-09-15"), ("2026-01-01", "2026-09-15")]),
        ("this year and the same period last year", [("2026-01-01", "2027-01-01"), ("2025-01-01", "2025-09-15")]),
    ],
)  # fmt: skip
def test_several_periods(question: str, periods: list[tuple[str, str]]) -> None:
    assert [(start, end) for start, end, _ in said(question)] == periods


@pytest.mark.parametrize(
    "question",
    ["How many vessels are there?", "this may take a while", "the month with most sailings", "more than 2 sailings",
     "route 2026-17 of the plan", "the day before departure"],
)  # fmt: skip
def test_no_period(question: str) -> None:
    assert said(question) == []
