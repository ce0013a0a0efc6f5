"""How a question was understood, later: "last month" is another month then, "August 2026" is not."""

from __future__ import annotations

import datetime as dt

import pytest

from harquel.core.calendar import USUAL
from harquel.core.reading import Reading
from harquel.core.reading.moving import moved

THEN = dt.datetime(2026, 9, 14, 10)


def reading(words: str, since: str | None, until: str | None) -> Reading:
    ends = {"from": since, "until": until}
    during = {"words": words, **{k: v for k, v in ends.items() if v}}
    figure = {"words": "How many sailings", "figure": "count"}
    return Reading.model_validate({"rows": "sailing", "figures": [figure], "during": [during]})


@pytest.mark.parametrize(("words", "since", "until", "now", "later"), [
    ("last month", "2026-08-01 00:00:00", "2026-09-01 00:00:00", "2026-10-02 06:00", ("2026-09-01", "2026-10-01")),
    ("this year", "2026-01-01 00:00:00", "2027-01-01 00:00:00", "2027-01-04 06:00", ("2027-01-01", "2028-01-01")),
    ("yesterday", "2026-09-13 00:00:00", "2026-09-14 00:00:00", "2026-09-15 06:00", ("2026-09-14", "2026-09-15")),
    ("last week", "2026-09-07 00:00:00", "2026-09-14 00:00:00", "2026-09-21 06:00", ("2026-09-14", "2026-09-21")),
])  # fmt: skip
def test_times_of_the_calendar_move_along(words: str, since: str, until: str, now: str, later: tuple[str, str]) -> None:
    found = moved(
        reading(words, since, until), f"How many sailings {words}?", THEN, dt.datetime.fromisoformat(now), USUAL
    )
    assert found is not None
    made, any_moved = found
    assert any_moved
    assert (made.during[0].since, made.during[0].until) == tuple(f"{day} 00:00:00" for day in later)


def test_what_is_said_by_its_date_stays() -> None:
    told = reading("in August 2026", "2026-08-01 00:00:00", "2026-09-01 00:00:00")
    found = moved(told, "How many sailings in August 2026?", THEN, dt.datetime(2027, 1, 4, 6), USUAL)
    assert found is not None
    assert found[1] is False
    assert found[0].during[0].since == "2026-08-01 00:00:00"


@pytest.mark.parametrize(
    ("words", "since"), [("last month", "2026-07-01 00:00:00"), ("at some time", "2026-08-01 00:00:00")]
)
def test_a_time_that_is_not_what_its_words_say_is_not_moved(words: str, since: str) -> None:
    told = reading(words, since, "2026-09-01 00:00:00")
    assert moved(told, f"How many sailings {words}?", THEN, dt.datetime(2026, 10, 2), USUAL) is None
