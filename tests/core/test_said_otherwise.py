"""The same answer said otherwise: by the other side of the question's very instant, by a key where a name may not be
seen, by a text that was put together. And what comes close to that and is another answer.
"""

from __future__ import annotations

import datetime as dt
import json
from pathlib import Path
from typing import Any

import pytest

from harquel.core.domain.catalog import Catalog
from harquel.core.reading import Reading, at_the_edge, by_keys
from harquel.testing.scripted import Scripted
from harquel.testing.sources import NOW, ask, expected, scanned
from tests.core.conftest import Make
from tests.core.test_control import Reader, read
from tests.core.test_second_opinion import rules

NOON = "2026-09-14 10:00:00"
YEAR_AGO = "2025-09-14 10:00:00"
A_SECOND_LATER = "2026-09-14 10:00:01"


@pytest.fixture(scope="module")
def catalog(ferries: Path) -> Catalog:
    return scanned(ferries)


def compared(make: Make, draft: str, words: str, **reading: Any) -> tuple[bool | None, str]:
    found = ask(read(make(Scripted(draft)), Reader(json.dumps({**reading, "words": words}))), words)
    assert found.second_opinion is not None
    return found.second_opinion.agrees, found.second_opinion.said


def edges(now: dt.datetime = NOW, **reading: Any) -> list[dict[str, Any]]:
    given = Reading.model_validate({"rows": "sailing", **reading})
    return [one.told() for one in at_the_edge(given, now)]


def test_only_the_very_instant_of_the_question_has_another_side() -> None:
    def untils(*ends: str) -> list[list[str]]:
        found = edges(during=[{"from": "2025-01-01", "until": end} for end in ends])
        return [[time["until"] for time in one["during"]] for one in found]

    assert untils(NOON) == [[A_SECOND_LATER]]
    assert untils(A_SECOND_LATER) == [[NOON]]
    later = "2025-09-14 10:00:01"
    assert untils(NOON, YEAR_AGO) == [[A_SECOND_LATER, later], [A_SECOND_LATER, YEAR_AGO], [NOON, later]]
    # A whole day, another time of day, no end at all; the end of time, and nonsense.
    for end in ("2026-09-14", "2026-09-14 09:59:59", "2026-09-14 10:00:02", "9999-12-31 23:59:59", "soon"):
        assert untils(end) == []
    assert edges(during=[{"from": NOON}]) == []
    assert untils(NOON, NOON, NOON) == [], "more ways than anybody tries"
    # A question that is asked at midnight has whole days.
    assert edges(NOW.replace(hour=0), during=[{"until": "2026-09-14"}]) == []
    days = {"figure": "average", "of": "today", "since": "scheduled_departure", "unit": "days"}
    assert [one["figures"][0]["of"] for one in edges(figures=[days])] == ["now"]
    assert edges(figures=[days | {"unit": "hours"}]) == [], "ten hours are no matter of opinion"


COUNT = "SELECT COUNT(*) AS n FROM sailing WHERE scheduled_departure >= '2026-01-01' AND scheduled_departure {} '{}'"


@pytest.mark.parametrize(("ends", "agrees"), [
    (("<", NOON), True), (("<=", NOON), True), (("<", A_SECOND_LATER), True),
    (("<", "2026-09-14"), False), (("<", "2026-09-14 12:00:00"), False), (("<", "2026-09-15"), False),
])  # fmt: skip
def test_a_draft_may_count_the_instant_of_the_question_or_not(make: Make, ends: tuple[str, str], agrees: bool) -> None:
    found, said = compared(make, COUNT.format(*ends), "Sailings this year until now", rows="sailing",
                           figures=[{"figure": "count"}], during=[{"from": "2026-01-01", "until": NOON}])  # fmt: skip
    assert found is agrees, said


HIDDEN = {("crew_member", "name"), ("customer", "name"), ("customer", "id")}


def keyed(catalog: Catalog, **reading: Any) -> Reading:
    given = Reading.model_validate(reading)
    return by_keys(given, catalog, lambda table, column: (table.name, column.name) in HIDDEN)


def test_a_name_that_may_not_be_seen_gives_way_to_a_key_that_may(catalog: Catalog) -> None:
    found = keyed(catalog, rows="crew_member", show=["crew_member.name", "rank"], order=[{"by": "crew_member.name"}])
    assert (found.show, found.order[0].by) == (("crew_member.id", "rank"), "crew_member.id")
    chief = "manager_id>crew_member.name"
    found = keyed(catalog, rows="crew_member", figures=[{"figure": "count"}], per=[{"column": chief}])
    assert found.per[0].column == "manager_id>crew_member.id"
    # Where the key is hidden too, where nothing is, and where the name leads nowhere, it stays as it was.
    for rows, name in (("customer", "customer.name"), ("vessel", "vessel.name"), ("vessel", "customer.name")):
        given = Reading.model_validate({"rows": rows, "show": [name]})
        assert keyed(catalog, rows=rows, show=[name]) == given


def test_who_may_not_be_named_is_told_by_a_key(make: Make) -> None:
    led = "SELECT manager_id, {} AS n FROM crew_member WHERE manager_id > 0 GROUP BY manager_id ORDER BY n DESC LIMIT 1"
    most = {"rows": "crew_member", "figures": [{"figure": "count"}], "per": [{"column": "manager_id>crew_member.name"}]}
    # Chief 1 leads eleven people, chief 11 one: a key is no figure, whichever way round.
    least = led.replace(" DESC", "")
    for draft, agrees in ((led, True), (led.replace("{}", "{} + 1"), False), (least, False)):
        found, said = compared(make, draft.format("COUNT(*)"), "Who leads the most people", **most, top=1,
                               order=[{"by": 0, "descending": True}])  # fmt: skip
        assert found is agrees, said


def test_what_tells_a_group_is_no_figure_of_it(make: Make, ferries: Path) -> None:
    """One row, the two numbers crosswise: five incidents of severity 2, or two of severity 5."""
    most = {"rows": "incident", "figures": [{"figure": "count"}], "per": [{"column": "severity"}],
            "order": [{"by": 0, "descending": True}], "top": 1}  # fmt: skip
    crosswise = "SELECT {}, {} FROM incident GROUP BY 1 ORDER BY 2 LIMIT 1"
    inner = "SELECT s, n FROM (SELECT {} AS s, {} AS n FROM incident GROUP BY 1) AS g LIMIT 1"
    plain = "SELECT severity, COUNT(*) AS n FROM incident GROUP BY severity ORDER BY n DESC LIMIT 1"
    agreed, said = compared(make, plain, "Which severity is the most frequent", **most)
    assert agreed is True, said
    ((severity, count),) = expected(ferries, plain)
    for draft in (crosswise, inner):
        turned = draft.format(f"severity + {count} - severity", f"COUNT(*) * 0 + {severity}")
        agreed, said = compared(make, turned, "Which severity is the most frequent", **most)
        assert agreed is False, said


TAKEN = """SELECT {} AS vessel, COUNT(*) AS n FROM sailing s JOIN vessel v ON v.id = s.vessel_id
GROUP BY v.id, v.name, v.code"""


@pytest.mark.parametrize(("called", "agrees"), [
    ("v.name || ' (' || v.code || ')'", True), ("v.code || ' ' || v.name", True), ("('Ship ' || (v.name))", True),
    # What goes into it is another row's, or is not there, or is worked out.
    ("v.code || ' ' || v.code", False), ("v.status || ' ' || v.built_year", False),
    ("'Ship ' || UPPER(v.name)", False), ("'Ship'", False),
])  # fmt: skip
def test_a_text_that_holds_the_name_says_which_row_it_is(make: Make, called: str, agrees: bool) -> None:
    found, said = compared(make, TAKEN.format(called), "Sailings of each vessel", rows="sailing",
                           figures=[{"figure": "count"}], per=[{"column": "vessel.name"}])  # fmt: skip
    assert found is agrees, said


REFUNDED = "FROM payment WHERE amount_eur > 100 AND refunded_at >= '2025-01-01' AND refunded_at < '2026-01-01'"
REFUNDS: dict[str, Any] = {
    "rows": "payment", "show": ["payment.id", "amount_eur"],
    "only": [{"column": "amount_eur", "is": "more", "values": [100]}],
    "during": [{"column": "refunded_at", "from": "2025-01-01", "until": "2026-01-01"}],
}  # fmt: skip


@pytest.mark.parametrize(("draft", "agrees"), [
    (f"SELECT COUNT(*) AS n, SUM(amount_eur) AS eur {REFUNDED}", True),
    (f"SELECT MIN(amount_eur) AS least, MAX(amount_eur) AS most, AVG(amount_eur) AS mean {REFUNDED}", True),
    (f"SELECT n FROM (SELECT COUNT(*) * 3 AS n {REFUNDED} GROUP BY booking_id % 3) AS counted LIMIT 1", False),
    # One of its figures is another, of other rows, of what the reading does not list; or it is no sum of all.
    (f"SELECT COUNT(*) AS n, SUM(amount_eur) / 2 AS eur {REFUNDED}", False),
    (f"SELECT COUNT(*) + 1 AS n {REFUNDED}", False), (f"SELECT COUNT(*) AS n {REFUNDED.replace('100', '90')}", False),
    (f"SELECT COUNT(*) AS n, SUM(booking_id) AS bookings {REFUNDED}", False),
    (f"SELECT SUM(amount_eur) AS eur {REFUNDED} GROUP BY refunded_at < '2025-03-01' ORDER BY 1 DESC LIMIT 1", False),
])  # fmt: skip
def test_a_draft_may_sum_up_what_the_reading_lists(make: Make, draft: str, agrees: bool) -> None:
    found, said = compared(make, draft, "Refunds above 100 euros in 2025", **REFUNDS)
    assert found is agrees, said


OPEN = "SELECT id, {} AS days_open FROM maintenance_order WHERE closed_on IS NULL AND opened_on < '2026-08-15'"


@pytest.mark.parametrize(("days", "confirmed"), [
    ("julianday('2026-09-14') - julianday(opened_on)", True), ("julianday(opened_on)", False),
    ("julianday('2026-09-15') - julianday(opened_on)", False),
])  # fmt: skip
def test_how_long_ago_it_was_is_confirmed_where_rows_were_chosen_by_it(make: Make, days: str, confirmed: bool) -> None:
    given = {"rows": "maintenance_order", "show": ["maintenance_order.id"], "words": "Orders open … more than 30 days",
             "idle": ["for"], "only": [{"column": "closed_on", "is": "empty"},
                      {"column": "opened_on", "is": "less", "values": ["2026-08-15"]}]}  # fmt: skip
    found = ask(read(make(Scripted(OPEN.format(days))), Reader(json.dumps(given))), "Orders open for more than 30 days")
    assert found.second_opinion is not None
    assert found.second_opinion.agrees, found.second_opinion.said
    assert ("unconfirmed" not in rules(found)) is confirmed, rules(found)


LONGEST = """SELECT id, julianday(closed_on) - julianday(opened_on) AS days FROM maintenance_order
WHERE closed_on IS NOT NULL ORDER BY days DESC LIMIT 1"""
TOOK_LONGEST: dict[str, Any] = {
    "rows": "maintenance_order", "show": ["maintenance_order.id", {"of": "closed_on", "since": "opened_on"}],
    "only": [{"column": "closed_on", "is": "empty", "not": True}], "order": [{"by": 1, "descending": True}],
    "words": "Which order took the longest",
}  # fmt: skip


@pytest.mark.parametrize(("given", "doubted"), [
    ({**TOOK_LONGEST, "top": 1}, False),
    # Nobody asked for one alone, or it is not the same.
    (TOOK_LONGEST, True), ({**TOOK_LONGEST, "top": 2}, True),
])  # fmt: skip
def test_what_is_level_with_the_last_row_is_told_and_no_doubt_where_two_ways_agree(
    make: Make, given: dict[str, Any], doubted: bool
) -> None:
    found = ask(read(make(Scripted(LONGEST)), Reader(json.dumps(given))), "Which order took the longest?")
    assert found.answer is not None
    assert ("result-ties" in rules(found)) is doubted
    assert ("is level with the last one shown" in found.answer.text) is not doubted
    assert (found.trust == "clear") is not doubted
    # What is told and no doubt is no reason to draft again.
    assert len(found.attempts) == 1 + doubted


DEAREST = "SELECT {} FROM booking ORDER BY total_cents{} LIMIT {}"
TOTALS: dict[str, Any] = {"rows": "booking", "show": ["booking.id", {"of": "total_cents"}],
                         "order": [{"by": 1, "descending": True}], "top": 12}  # fmt: skip


@pytest.mark.parametrize(("shown", "order", "top", "agrees"), [
    # Which of the level ones come last is chance; those before them, and what they cost, are not.
    ("id, total_cents", " DESC, id DESC", 12, True), ("id, total_cents", " DESC, id", 12, True),
    ("id, total_cents", ", id DESC", 12, False), ("id, total_cents + 1", " DESC, id DESC", 12, False),
    ("id + 1, total_cents", " DESC, id DESC", 12, False), ("customer_id, total_cents", " DESC, id DESC", 12, False),
    ("id, total_cents", " DESC, id DESC", 11, False), ("id", " DESC, id DESC", 12, False),
])  # fmt: skip
def test_which_of_the_level_rows_were_cut_off_is_no_difference(
    make: Make, shown: str, order: str, top: int, agrees: bool
) -> None:
    draft = DEAREST.format(shown, order, top)
    found, said = compared(make, draft, "12 bookings that cost most", **TOTALS)
    assert found is agrees, said


@pytest.mark.parametrize(("order", "top", "agrees"), [
    ("DESC", 9, True), ("ASC", 9, False), ("DESC", 5, True),
    # Of five that are cut off, which they are says what they were ordered by.
    ("DESC", 2, True), ("ASC", 2, False),
])  # fmt: skip
def test_the_first_nine_of_five_come_in_the_order_that_was_asked_for(
    make: Make, order: str, top: int, agrees: bool
) -> None:
    draft = f"SELECT severity, COUNT(*) AS n FROM incident GROUP BY severity ORDER BY n {order} LIMIT {top}"
    found, said = compared(make, draft, "Most frequent severities", rows="incident", figures=[{"figure": "count"}],
                           per=[{"column": "severity"}], order=[{"by": 0, "descending": True}], top=top)  # fmt: skip
    assert found is agrees, said


@pytest.mark.parametrize(("figure", "agrees"), [
    ("ROUND(AVG(severity), 1)", True), ("ROUND(AVG(severity))", False), ("AVG(severity)", True),
    ("CAST(10 * AVG(severity) + 0.5 AS INTEGER) / 10.0", True),
    # Near it, and nobody has rounded.
    ("AVG(severity) + 0.03", False), ("2.4", False), ("ROUND(AVG(severity) + 0.2, 1)", False),
])  # fmt: skip
def test_a_figure_is_as_fine_as_it_was_made(make: Make, ferries: Path, figure: str, agrees: bool) -> None:
    ((mean,),) = expected(ferries, "SELECT AVG(severity) FROM incident")
    assert 0 < abs(mean - 2.4) < 0.05, "the one that is written down is near"
    found, said = compared(make, f"SELECT {figure} AS mean FROM incident", "Average severity of incidents",
                           rows="incident", figures=[{"figure": "average", "of": "severity"}])  # fmt: skip
    assert found is agrees, said


@pytest.mark.parametrize(("week", "agrees"), [
    ("STRFTIME('%Y-%W', scheduled_departure)", True), ("DATE(scheduled_departure, '-6 days', 'weekday 1')", True),
    # Weeks from Sunday are others.
    ("STRFTIME('%Y-%U', scheduled_departure)", False), ("DATE(scheduled_departure, '-6 days', 'weekday 0')", False),
])  # fmt: skip
def test_the_week_in_which_a_year_begins_is_number_0_of_it_or_the_last_of_the_old_one(
    make: Make, week: str, agrees: bool
) -> None:
    draft = (
        f"SELECT {week} AS week, COUNT(*) AS n FROM sailing WHERE scheduled_departure >= '2026-01-01' AND "
        "scheduled_departure < '2026-03-01' GROUP BY 1 ORDER BY 1"
    )
    same, said = compared(
        make, draft, "Sailings per week from January to February 2026", rows="sailing",
        figures=[{"figure": "count", "words": "Sailings"}],
        per=[{"column": "sailing.scheduled_departure", "unit": "week", "words": "per week"}],
        during=[{"from": "2026-01-01", "until": "2026-03-01", "words": "from January to February 2026"}],
    )  # fmt: skip
    assert same is agrees, said
