"""How a question is read over the demo world: what it names, counts, ranks, groups by, compares and leaves out."""

from __future__ import annotations

from pathlib import Path

import pytest
from trust.world import World, world

from harquel.core.review import Question, read_question
from harquel.testing.sources import NOW


@pytest.fixture(scope="module")
def demo(ferries: Path) -> World:
    return world(ferries)


def read(text: str, demo: World) -> Question:
    return read_question(text, NOW, demo.index.meanings)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("How many sailings left Gullspire late?", {"sailings": "the table sailing", "Gullspire": "harbour.name"}),
        ("Crossings of the Brightwater", {"Crossings": "the table sailing", "Brightwater": "vessel.name"}),
        ("How many no-shows were there?", {"no-shows": "booking.status = 'no_show'"}),
        ("Which orders are unfinished?", {"unfinished": "maintenance_order.closed_on IS NULL"}),
        ("Turnover per line", {"Turnover": "the measure revenue", "line": "the table route"}),
        ("Near misses by vessel", {"Near misses": "incident.category = 'near miss'"}),
    ],
)
def test_words_mean_what_the_notes_and_the_data_call_so(text: str, words: dict[str, str], demo: World) -> None:
    found = {m.text: " or ".join(x.said() for x in m.meanings) for m in read(text, demo).mentions if m.firm}
    for word, meaning in words.items():
        assert meaning in found[word], found


@pytest.mark.parametrize(
    ("text", "unknown"),
    [
        ("Revenue from subscriptions", ["subscriptions"]),
        ("How many refunds did we grant to schools?", ["schools"]),
        ("How did revenue develop from quarter to quarter?", []),
        ("Reasons for cancellations, commonest on top", []),
        ("Show the three windiest days", []),
        ("Which booking is dearer than the average?", []),
        ("Please let me quickly understand how busy Oarsby was", []),
    ],
)
def test_a_word_that_nothing_is_called_by_is_known_to_be_unknown(
    text: str, unknown: list[str], demo: World
) -> None:  # fmt: skip
    assert [w.text for w in read(text, demo).unknown] == unknown


@pytest.mark.parametrize(
    ("text", "numbers"),
    [
        ("incidents of severity 4 or more", [(4, "at least")]),
        ("incidents graver than 3", [(3, "more")]),
        ("incidents milder than 3", [(3, "less")]),
        ("no more than two cars", [(2, "at most")]),
        ("bookings above 1,500 euros", [(1500, "more")]),
        ("less than a day before departure", [(1, "less")]),
        ("sailings at 7:30", []),
        ("sailings in 2026", []),
        ("a berth that fits 80 m", [(80, "at least")]),
    ],
)
def test_numbers_and_the_side_that_is_meant(text: str, numbers: list[tuple[float, str]], demo: World) -> None:
    assert [(n.value, n.sense) for n in read(text, demo).numbers] == numbers


@pytest.mark.parametrize(
    ("text", "per"),
    [
        ("revenue per month", ["month"]),
        ("sailings by vessel and month", ["vessel", "month"]),
        ("weekly number of cancellations", ["week"]),
        ("revenue from quarter to quarter", ["quarter"]),
        ("incidents per day of the week", ["weekday"]),
        ("bookings for each channel", ["channel"]),
        ("the five routes that earned most by revenue", []),
    ],
)
def test_what_figures_are_wanted_for_each_of(text: str, per: list[str], demo: World) -> None:
    assert [p.calendar or p.text for p in read(text, demo).per] == per


@pytest.mark.parametrize(
    ("text", "ranked"),
    [
        ("Which five routes earned most this year?", [("most", "high")]),
        ("The quietest harbour", [("quietest", "low")]),
        ("Vessels, worst first", []),
        ("The windiest days", [("windiest", "high")]),
        ("At least three sailings", []),
        ("The oldest ship", [("oldest", None)]),
        ("Which harbour has the biggest interest?", [("biggest", "high")]),
    ],
)
def test_superlatives_and_their_direction(text: str, ranked: list[tuple[str, str | None]], demo: World) -> None:
    assert read(text, demo).superlatives == ranked


@pytest.mark.parametrize(
    ("text", "has", "lacks"),
    [
        ("How many harbours have no ramp?", {"how many", "not"}, {"average"}),
        ("How many no-shows were there?", {"how many"}, {"not"}),
        ("no more than two cars", set(), {"not"}),
        ("Share of bookings that were cancelled", {"share"}, {"not"}),
        ("Average length of stay of the crew", {"average", "how long"}, set()),
        ("Which order took the longest?", {"took longest"}, set()),
        ("Customers with more than one booking", {"several"}, set()),
        ("Who is still employed?", {"now"}, set()),
        ("Running total of litres per month", {"running", "total"}, set()),
    ],
)
def test_what_else_it_asks_for(text: str, has: set[str], lacks: set[str], demo: World) -> None:
    found = read(text, demo).has
    assert has <= found
    assert not lacks & found


def test_what_is_counted_is_what_stands_before_the_verb(demo: World) -> None:
    counted = read("How many open repairs does each vessel have?", demo).counted
    assert counted is None
    counted = read("How many sailings did Brightwater make?", demo).counted
    assert counted is not None
    assert counted.text == "sailings"


def test_a_period_is_called_as_the_asker_wrote_it(demo: World) -> None:
    assert [p.label for p in read("Sailings in May 2026", demo).periods] == ["May 2026"]
