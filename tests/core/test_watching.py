"""When a watched question is asked, and what of it is told: over thousands of days, and around each line."""

from __future__ import annotations

import datetime as dt
import random
from decimal import Decimal
from zoneinfo import ZoneInfo

import pytest

from harquel.core.watching import NotWhen, Quiet, Rule, Seen, State, When, judge, rule_of, when_of

NOW = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)
BERLIN = "Europe/Berlin"


@pytest.mark.parametrize(("text", "cron"), [
    ("every day at 8", "0 8 * * *"), ("daily at 8:30 pm", "30 20 * * *"), ("täglich um 7.15 Uhr", "15 7 * * *"),
    ("every Monday at 7:30", "30 7 * * 1"), ("montags um 8 Uhr", "0 8 * * 1"), ("Monday, Thursday at 6", "0 6 * * 1,4"),
    ("jeden Montag und Freitag um 9", "0 9 * * 1,5"), ("Sundays", "0 6 * * 0"), ("hourly", "0 * * * *"),
    ("weekdays at 12 pm", "0 12 * * 1-5"), ("werktags um 6:05", "5 6 * * 1-5"), ("every 15 minutes", "*/15 * * * *"),
    ("on the 1st of each month at 6:00", "0 6 1 * *"), ("am 15. jedes Monats um 9 Uhr", "0 9 15 * *"),
    ("monthly", "0 6 1 * *"), ("every 6 hours", "0 */6 * * *"), ("0 6 * * 1", "0 6 * * 1"),
    ("*/5 8-17 * * mon-fri", "*/5 8-17 * * MON-FRI"),
    ("daily at 12 am", "0 0 * * *"),
])  # fmt: skip
def test_words_of_every_day_mean_a_cron_form(text: str, cron: str) -> None:
    assert when_of(text, BERLIN, NOW).cron == cron


@pytest.mark.parametrize("text", [
    "", "sometimes", "every 3 minutes", "* * * * *", "*/2 * * * *", "0 6 30 2 *", "61 6 * * *", "0 25 * * *",
    "daily at 25", "daily at 13 pm", "every day at 8:99", "every 7 minutes", "0 6 * *", "0 6 * * * *", "x" * 500,
    "on the 40th of each month", "0,1 6 * * *", "@reboot", "every Monday at", "0 6 * * 9", "\x00", "every 0 hours",
])  # fmt: skip
def test_what_says_nothing_or_too_much_is_refused(text: str) -> None:
    with pytest.raises(NotWhen):
        when_of(text, BERLIN, NOW)


def test_ten_thousand_days_without_one_missed_doubled_or_early() -> None:
    """Days of a clock that is never late, with three downtimes; each day has its time once, by what clocks show."""
    for text, at in (
        ("every day at 2:30", dt.time(2, 30)),
        ("every day at 8:00", dt.time(8)),
        ("daily at 0:15", dt.time(0, 15)),
    ):
        when, zone = when_of(text, BERLIN, NOW), ZoneInfo(BERLIN)
        start = dt.datetime(2020, 1, 1, 12, tzinfo=zone)
        last, ran = start.astimezone(dt.UTC), []
        down = [
            (start + dt.timedelta(days=d), start + dt.timedelta(days=d + n))
            for d, n in ((700, 1), (3000, 9), (6001, 40))
        ]
        clock = last
        for _ in range(10_000):
            clock = when.after(clock)
            if any(a <= clock < b for a, b in down):
                continue
            ran.append(clock)
        days = [r.astimezone(zone).date() for r in ran]
        assert len(set(days)) == len(days)
        missing = {start.date() + dt.timedelta(days=n + 1) for n in range(10_000)} - set(days)
        assert len(missing) == sum((b - a).days for a, b in down)
        for one in ran:
            shown = one.astimezone(zone)
            skipped = shown.utcoffset() != (shown - dt.timedelta(hours=3)).utcoffset() and at == dt.time(2, 30)
            assert shown.time() == at or (skipped and shown.time() == dt.time(3)), shown
        for a, b in down:
            # After a downtime the last of those that were missed is caught up, once.
            late = when.latest(a.astimezone(dt.UTC), b.astimezone(dt.UTC))
            assert late is not None
            assert b.astimezone(dt.UTC) - late <= dt.timedelta(days=1)
            assert when.after(late) > b.astimezone(dt.UTC)


def test_the_hour_that_comes_twice_has_it_once_and_the_one_that_is_left_out_too() -> None:
    when = When("30 2 * * *", BERLIN)
    spring = when.after(dt.datetime(2026, 3, 28, 12, tzinfo=dt.UTC))
    assert spring == dt.datetime(2026, 3, 29, 1, 0, tzinfo=dt.UTC)
    autumn = when.after(dt.datetime(2026, 10, 24, 12, tzinfo=dt.UTC))
    assert autumn.date() == dt.date(2026, 10, 25)
    assert when.after(autumn).date() == dt.date(2026, 10, 26)


def test_latest_and_after_say_the_same_whenever_they_are_asked() -> None:
    dice = random.Random(36)
    for _ in range(300):
        when = When(
            f"{dice.randrange(60)} {dice.randrange(24)} * * {dice.choice('*12345')}",
            dice.choice([BERLIN, "UTC", "America/New_York"]),
        )
        since = dt.datetime(2026, 1, 1, tzinfo=dt.UTC) + dt.timedelta(minutes=dice.randrange(525_600))
        until = since + dt.timedelta(minutes=dice.randrange(1, 40_000))
        times, at = [], since
        while (at := when.after(at)) <= until:
            times.append(at)
        assert when.latest(since, until) == (times[-1] if times else None), (when, since, until)


def test_quiet_hours_put_off_to_their_end() -> None:
    quiet = Quiet(dt.time(22), dt.time(7), BERLIN)
    for at, until in (
        ("2026-09-14T20:30", "2026-09-15T05:00"),
        ("2026-09-15T03:00", "2026-09-15T05:00"),
        ("2026-09-15T05:00", "2026-09-15T05:00"),
    ):
        found = quiet.over(dt.datetime.fromisoformat(at).replace(tzinfo=dt.UTC))
        assert found == dt.datetime.fromisoformat(until).replace(tzinfo=dt.UTC)
    noon = Quiet(dt.time(12), dt.time(13), "UTC")
    assert noon.over(NOW.replace(hour=12, minute=5)) == NOW.replace(hour=13)


def figures(rule: Rule, *values: float | None, rows: int = 1) -> list[int]:
    """At which of the figures it is told."""
    state, told = State(), []
    for number, value in enumerate(values):
        table = [[value]] if rows else []
        found = judge(rule, state, Seen.of(table, ["number"], len(table)))
        state = found.state
        told += [number] if found.tell else []
    return told


def test_a_line_is_told_when_it_is_crossed_and_again_only_after_the_way_back() -> None:
    assert figures(rule_of("above", "10", None), 9, 11, 12, 10, 11, 10.5, 9) == [1, 4]
    # What trembles at the line tells it once.
    assert figures(rule_of("above", "10", "2"), 9, 11, 9.5, 11, 8.5, 12, 8, 11) == [1, 7]
    assert figures(rule_of("below", "0", "1"), 1, -1, 0.5, -2, 1, -1) == [1, 5]
    # No figure crosses nothing and goes back behind nothing.
    assert figures(rule_of("above", "10", None), 11, None, 12) == [0]
    assert figures(rule_of("by", "5", None), 100, 103, 106, 107, 101) == [2, 4]
    assert figures(rule_of("by", "10 %", None), 100, 109, 110, 120, 121) == [2, 4]
    assert figures(rule_of("missing", None, None), 1, None, None, 2, None) == [1, 4]
    assert figures(rule_of("change", None, None), 1, 1, 2, 2, 1) == [0, 2, 4]
    assert figures(rule_of("always", None, None), 1, 1) == [0, 1]


def test_rows_that_appear_are_told_once() -> None:
    rule, state, told = rule_of("appears", None, None), State(), []
    for count in (0, 2, 3, 0, 1):
        found = judge(rule, state, Seen.of([["x"]] * count, ["text"], count))
        state = found.state
        told.append(found.tell)
    assert told == [False, True, False, False, True]


@pytest.mark.parametrize(("happens", "line", "back"), [
    ("above", None, None), ("always", "1", None), ("above", "x", None), ("above", "5 %", None), ("by", "0", None),
    ("by", "-1", None), ("above", "NaN", None), ("above", "1e400", None), ("below", "1", "-1"), ("by", "1", "1"),
])  # fmt: skip
def test_a_rule_that_makes_no_sense_is_refused(happens: str, line: str | None, back: str | None) -> None:
    with pytest.raises(ValueError, match="line"):
        rule_of(happens, line, back)  # type: ignore[arg-type]


def test_the_figure_is_that_of_the_only_row() -> None:
    assert Seen.of([["Aurelie", 3]], ["text", "integer"], 1).figure == Decimal(3)
    for rows, types in (
        ([[1], [2]], ["integer"]),
        ([[1, 2]], ["integer", "integer"]),
        ([["x"]], ["text"]),
        ([[None]], ["integer"]),
    ):
        assert Seen.of(rows, types, len(rows)).figure is None
