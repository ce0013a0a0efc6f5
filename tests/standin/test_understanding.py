"""How the simulated model reads questions over the demo schema: figures, groups, filters, periods, order."""

from __future__ import annotations

import datetime as dt
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from harquel.core.domain.notes import ColumnNotes, Notes, TableNotes
from harquel.core.domain.policy import Policy
from harquel.core.prompts import compose
from harquel.standin.model.intent import AsksForChange, NotInData
from harquel.standin.model.lexicon import lexicon_of
from harquel.standin.model.prompt import Prompt, read_prompt
from harquel.standin.model.render import write
from harquel.standin.model.understand import understand
from harquel.standin.model.words import tokens
from harquel.testing.sources import briefed, demo_policy, scanned


@pytest.fixture(scope="module")
def opening(ferries: Path) -> str:
    """The prompt up to the question."""
    policy = demo_policy()
    catalog = policy.visible(scanned(ferries, policy))
    briefing = briefed("x", catalog)
    return compose("QUESTION", briefing, dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC), "Ada")[1]["content"]


def prompt_of(opening: str, question: str) -> Prompt:
    return read_prompt(opening.replace("QUESTION", question))


def sql_of(opening: str, question: str) -> str:
    prompt = prompt_of(opening, question)
    words = frozenset(t.stem for t in tokens(question))
    return write(understand(prompt, lexicon_of(prompt)), prompt, words)[0]


PARTS = {
    # figures
    "How many vessels are there?": ["SELECT COUNT(*)", "FROM vessel"],
    "Total litres last month": ["SUM(fuel_log.litres)", "'2026-08-01'", "< '2026-09-01'"],
    "Average gust at Carrow Ness": ["AVG(weather_reading.gust_kn)", "harbour.name = 'Carrow Ness'"],
    "Highest wave height in 2025": ["MAX(weather_reading.wave_m)", "'2025-01-01'"],
    "Average severity of incidents": ["AVG(incident.severity)"],
    "How many passengers did we carry in July 2026?": ["SUM(booking_item.quantity)", "booking_item.kind = 'foot'"],
    "Revenue in August 2026": [
        "SUM(booking.total_cents) / 100.0",
        "NOT customer.is_staff",
        "sailing.scheduled_departure",
    ],
    # durations, never, rates, comparisons, ends
    "average delay per route this year": [
        "AVG((JULIANDAY(sailing.actual_departure) - JULIANDAY(sailing.scheduled_departure)) * 1440)",
        "BY route.code",
    ],
    "how long do maintenance orders stay open on average": [
        "AVG(JULIANDAY(maintenance_order.closed_on) - JULIANDAY(maintenance_order.opened_on))",
    ],
    "customers who never booked": ["NOT EXISTS (SELECT 1 FROM booking WHERE booking.customer_id = customer.id)"],
    "no-show rate by channel": ["SUM(CASE WHEN booking.status = 'no_show' THEN 1 ELSE 0 END) / COUNT(booking.id)"],
    "which routes are longer than average?": ["route.distance_nm > (SELECT AVG(distance_nm) FROM route)"],
    "vessels with more than 200 passengers capacity": ["vessel.passenger_capacity > 200"],
    "how many sailings from Quillhaven to Dunmarrow last week?": [
        "harbour.id = route.from_harbour_id",
        "to_harbour.id = route.to_harbour_id",
        "harbour.name = 'Quillhaven'",
        "to_harbour.name = 'Dunmarrow'",
    ],
    "when did Brightwater last leave Quillhaven?": ["MAX(sailing.actual_departure)", "route.from_harbour_id"],
    "how many were cancelled last month and why": ["cancel_reason"],
    # German, and slips of the hand
    "how many bokings were made in august 2026?": ["COUNT(*)", "FROM booking WHERE"],
    "Wie viele Buchungen wurden storniert?": ["COUNT(*)", "booking.status = 'cancelled'"],
    "Welches Schiff verbraucht am meisten Treibstoff?": ["SUM(fuel_log.litres)", "DESC", "LIMIT 1"],
    "längste Strecke": ["ORDER BY route.distance_nm DESC LIMIT 1"],
    "Fahrten je Wochentag im Juli 2026": ["'%w'", "'2026-07-01'"],
    # rows by what an adjective says of them
    "Which ship is the oldest one still in service?": ["vessel.status = 'active'", "vessel.built_year ASC LIMIT 1"],
    "Which route is the longest?": ["ORDER BY route.distance_nm DESC LIMIT 1"],
    "Show the three cheapest fares": ["ORDER BY fare.amount_cents ASC LIMIT 3"],
    # groups
    "Incidents per category": ["COUNT(*)", "GROUP BY incident.category"],
    "Bookings by month in 2025": ["STRFTIME('%Y-%m', booking.booked_at)", "GROUP BY"],
    "Revenue per quarter": ["'-Q'", "GROUP BY"],
    "Sailings per weekday": ["STRFTIME('%w', sailing.scheduled_departure)"],
    "Fuel costs per litre": [],
    "Bookings by status and channel": ["GROUP BY booking.status, COALESCE(booking.channel, 'unknown')"],
    "Number of crew members by rank": ["crew_member.rank", "COUNT(*)"],
    # filters
    "How many bookings came by phone?": ["booking.channel = 'phone'"],
    "Which sailings were cancelled because of fog?": ["sailing.status = 'X'", "sailing.cancel_reason = 'fog'"],
    "How many incidents with severity of at least 4?": ["incident.severity >= 4"],
    "Bookings that did not show up by month": ["booking.status = 'no_show'"],
    "How many retired vessels?": ["vessel.status = 'retired'"],
    # order and limits
    "Top 3 harbours by customers": ["ORDER BY", "DESC", "LIMIT 3"],
    "Which vessel had the fewest incidents?": ["ASC", "LIMIT 1"],
    "Which two vessels used most fuel in 2025?": ["SUM(fuel_log.litres)", "LIMIT 2", "DESC"],
    "Bottom 2 routes by revenue in 2025": ["ASC", "LIMIT 2"],
    # shares and comparisons
    "What percentage of sailings was cancelled in 2025?": [
        "100.0 * SUM(CASE WHEN sailing.status = 'X' THEN 1 ELSE 0 END)"
    ],
    "Share of payments by method": ["SUM(COUNT(*)) OVER ()", "payment.method"],
    "Revenue this month compared with last month": ["'this month' AS period", "UNION ALL", "'last month' AS period"],
    # time
    "Sailings since June 2026": [">= '2026-06-01'"],
    "Bookings before 2025-03-01": ["booking.booked_at < '2025-03-01'"],
    "Incidents today": [">= '2026-09-14'", "< '2026-09-15'"],
    "Bookings in the last 7 days": [">= '2026-09-07 10:00:00'", "<= '2026-09-14 10:00:00'"],
    # lists
    "Show all routes": ["SELECT route.id", "AS from_harbour", "to_harbour.name"],
}


@pytest.mark.parametrize("question", [q for q, parts in PARTS.items() if parts])
def test_what_it_makes_of_a_question(question: str, opening: str) -> None:
    sql = sql_of(opening, question)
    for part in PARTS[question]:
        assert part in sql, sql


@pytest.mark.parametrize(
    "question",
    [
        "How many unicorns did we carry?",
        "Average salary of the crew",
        "What will the weather be tomorrow in Berlinia?",
        "Which customer likes trains?",
        "Total fuel cost per vessel",
        "What does the mate earn?",
        "At which hour do most maintenance orders open?",
    ],
)
def test_what_is_not_there_is_not_made_up(question: str, opening: str) -> None:
    with pytest.raises(NotInData):
        sql_of(opening, question)


@pytest.mark.parametrize(
    "question", ["Delete every booking", "Please remove all incidents", "Update the fares", "Drop the table payment"]
)
def test_changes_are_told_apart(question: str, opening: str) -> None:
    with pytest.raises(AsksForChange):
        understand(prompt_of(opening, question), lexicon_of(prompt_of(opening, question)))


def test_the_prompt_is_read_whole(opening: str) -> None:
    prompt = prompt_of(opening, "How many?")
    assert len(prompt.tables) == 18
    sailing = prompt.tables["sailing"]
    assert (sailing.when, sailing.links["route_id"]) == ("scheduled_departure", ("route", "id"))
    assert sailing.columns["status"].codes["X"] == "cancelled"
    assert prompt.tables["customer"].always == "customer.deleted_at IS NULL"
    assert "email" not in prompt.tables["customer"].columns
    assert {m.name for m in prompt.measures} >= {"revenue", "passengers", "on time rate"}
    assert prompt.now == dt.datetime(2026, 9, 14, 10)
    assert prompt.question == "How many?"


def test_a_prompt_without_a_question_is_said() -> None:
    with pytest.raises(ValueError, match="no question"):
        read_prompt("## Schema\nCREATE TABLE a (\n  b TEXT\n);")


def test_how_many_of_what_is_in_a_unit_adds_it_up(tmp_path: Path) -> None:
    """Whatever else is known of crates; an average is asked for as one."""
    with closing(sqlite3.connect(tmp_path / "orchard.db")) as made:
        made.execute("CREATE TABLE delivery (id INTEGER PRIMARY KEY, crates INTEGER NOT NULL, brought_on DATE)")
    catalog = scanned(tmp_path / "orchard.db", Policy())
    notes = Notes(tables={"delivery": TableNotes(columns={"crates": ColumnNotes(unit="crates")})})
    briefing = briefed("x", catalog, notes)
    opening = compose("QUESTION", briefing, dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC), "Ada")[1]["content"]
    for question, part in (("How many crates are there?", "SUM(delivery.crates)"), ("Average crates", "AVG(")):
        assert part in sql_of(opening, question)
