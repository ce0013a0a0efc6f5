"""What a part of a reading could have meant instead: only what catalog and notes offer to this person, and no more than
anybody reads.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from harquel.core.briefing import Describer
from harquel.core.briefing.describe import table_text
from harquel.core.curation import corrected_notes, dumped, mismatches, read_document, read_yaml
from harquel.core.domain.notes import Notes
from harquel.core.domain.person import Person
from harquel.core.domain.understood import Lasting
from harquel.core.reading import Reading, control, instead_of, pieces, understood_as
from harquel.testing.sources import NOW, demo_notes, demo_policy, scanned

QUESTION = "How many sailings were cancelled in August 2026?"
CANCELLED = {"column": "status", "values": ["cancelled"], "words": "cancelled"}
AUGUST = {"from": "2026-08-01", "until": "2026-09-01", "words": "in August 2026"}


def offers(
    ferries: Path,
    question: str = QUESTION,
    withhold: list[str] | None = None,
    notes: Notes | None = None,
    **reading: Any,
) -> list[tuple[int, str, str]]:
    given = {"rows": "sailing", "figures": [{"figure": "count"}], "only": [CANCELLED], "during": [AUGUST], **reading}
    policy = demo_policy(withhold)
    catalog = Describer(policy, notes or demo_notes()).of(scanned(ferries, policy), Person()).catalog
    found = instead_of(Reading.model_validate(given), question, catalog, notes or demo_notes())
    return [(one.part, one.label, one.question) for one in found]


def test_other_codes_take_the_place_of_the_word_and_other_times_are_said_behind(ferries: Path) -> None:
    found = offers(ferries)
    assert [(part, label) for part, label, _ in found] == [
        (1, "scheduled"), (1, "departed"), (1, "arrived"), (2, "by actual departure of sailing"),
        (2, "by scheduled arrival of sailing"), (2, "by actual arrival of sailing"),
    ]  # fmt: skip
    assert found[2][2] == "How many sailings were arrived in August 2026?"
    assert found[3][2] == f"{QUESTION} (meaning: actual departure of sailing decides)"
    # What dates the rows that these point at can be meant, too; what is dated so already is not offered.
    booked = offers(ferries, rows="booking", only=[], during=[{**AUGUST, "column": "booked_at"}])
    assert [label for _, label, _ in booked] == ["by joined on of customer", "by scheduled departure of sailing"]
    revenue = {"rows": "booking", "only": [], "figures": [{"figure": "measure", "of": "revenue"}]}
    assert "by scheduled departure of sailing" not in [label for _, label, _ in offers(ferries, **revenue)]


def lasting(notes: Notes, ferries: Path, question: str, **reading: Any) -> dict[str, Lasting | None]:
    given = {"rows": "sailing", "figures": [{"figure": "count"}], "only": [CANCELLED], "during": [AUGUST], **reading}
    found = instead_of(Reading.model_validate(given), question, scanned(ferries), notes)
    return {one.label: one.lasting for one in found}


def test_what_can_be_noted_of_an_offer_contradicts_nothing_that_is_noted(ferries: Path) -> None:
    notes = demo_notes()
    # A word that means another code already is none for this one.
    told = lasting(notes, ferries, QUESTION)
    assert told["arrived"] is None
    assert told["by actual arrival of sailing"] == Lasting(table="sailing", column="actual_arrival")
    missed = {"column": "booking.status", "values": ["cancelled"], "words": "missed"}
    asked = "How many bookings were missed in August 2026?"
    told = lasting(notes, ferries, asked, rows="booking", only=[missed])
    noted = Lasting(table="booking", column="status", word="missed", code="no_show")
    assert noted in told.values()
    assert told["by scheduled departure of sailing"] == Lasting(table="booking", column="sailing.scheduled_departure")
    # An agreed measure says itself by what it is dated.
    revenue = lasting(notes, ferries, "Revenue in August 2026", rows="booking", only=[],
                      figures=[{"figure": "measure", "of": "revenue"}])  # fmt: skip
    assert set(revenue.values()) == {None}


def test_a_correction_is_noted_once_and_read_by_whoever_asks_next(ferries: Path) -> None:
    text, noted = "text: All of it.", Lasting(table="booking", column="status", word="missed", code="no_show")
    notes = read_document(text, Notes, "notes")
    once = corrected_notes(text, notes, noted)
    notes = read_document(once, Notes, "notes")
    assert notes.of("booking").columns["status"].also == {"no_show": ("missed",)}
    assert corrected_notes(once, notes, noted) == once
    more = corrected_notes(once, notes, replace(noted, word="did not come"))
    notes = read_document(more, Notes, "notes")
    assert notes.of("booking").columns["status"].also == {"no_show": ("missed", "did not come")}
    with pytest.raises(ValueError, match=r"“Missed” means no_show in booking\.status already"):
        corrected_notes(more, notes, replace(noted, word="Missed", code="cancelled"))
    dated = corrected_notes(more, notes, Lasting(table="booking", column="sailing.scheduled_departure"))
    notes = read_document(dated, Notes, "notes")
    assert corrected_notes(dated, notes, Lasting(table="booking", column="sailing.scheduled_departure")) == dated
    assert (dumped(read_yaml(dated)), mismatches(notes, scanned(ferries))) == (dated, [])
    # Both reach the statement that is built, and what models are told.
    reading = Reading.model_validate({"rows": "booking", "figures": [{"figure": "count"}], "during": [AUGUST],
                                      "only": [{"column": "status", "values": ["Did not come"]}]})  # fmt: skip
    catalog = scanned(ferries)
    sql = control(reading, catalog, notes, "sqlite", NOW)
    assert "t.status = 'no_show'" in sql
    assert "t1.scheduled_departure >= '2026-08-01'" in sql
    booking = catalog.table("booking")
    assert booking is not None
    told = table_text(booking, notes.of("booking"), "sqlite", demo_policy())
    assert "people also say: missed for 'no_show', did not come for 'no_show'" in told


@pytest.mark.parametrize(("condition", "question"), [
    ({**CANCELLED, "not": True}, QUESTION), ({**CANCELLED, "values": ["cancelled", "arrived"]}, QUESTION),
    ({**CANCELLED, "words": ""}, QUESTION), ({**CANCELLED, "words": "were … cancelled"}, QUESTION),
    (CANCELLED, "Of sailings cancelled in August 2026, how many were cancelled late?"),
    ({"column": "cancel_reason", "values": ["fog"], "words": "cancelled"}, QUESTION),
    ({"column": "status", "is": "empty", "words": "cancelled"}, QUESTION),
])  # fmt: skip
def test_where_it_is_not_one_word_for_one_code_nothing_is_offered(
    ferries: Path, condition: dict[str, Any], question: str
) -> None:
    assert [label for part, label, _ in offers(ferries, question, only=[condition]) if part == 1] == []


def test_what_may_not_be_seen_is_not_offered_and_what_cannot_be_followed_offers_nothing(ferries: Path) -> None:
    hidden = offers(ferries, withhold=["sailing.actual_departure", "sailing.actual_arrival"])
    assert [label for _, label, _ in hidden if label.startswith("by")] == ["by scheduled arrival of sailing"]
    assert offers(ferries, rows="ships") == []
    assert offers(ferries, only=[{**CANCELLED, "column": "no_such_column"}]) == []


def test_there_are_no_more_than_anybody_reads(ferries: Path) -> None:
    page = demo_notes().model_dump()
    page["tables"]["sailing"]["columns"]["status"]["codes"] = {f"Z{n}": f"state {n} " + "x" * 500 for n in range(99)}
    found = offers(ferries, notes=Notes.model_validate(page))
    assert len(found) == 24
    assert max(len(label) for _, label, _ in found) == 80


def test_parts_are_told_with_their_words_and_codes_by_their_meaning() -> None:
    given = {"rows": "sailing", "words": "How many … sailings", "only": [{**CANCELLED, "values": ["X"]}, {
             "column": "vessel.name", "values": ["Aurelie"]}], "during": [AUGUST]}  # fmt: skip
    told = understood_as(Reading.model_validate(given), demo_notes(), NOW)
    assert [(part.text, pieces(part.words), part.assumed) for part in told] == [
        ("rows of sailing", ["How many", "sailings"], False), ("status is cancelled", ["cancelled"], False),
        ("vessel.name is Aurelie", [], True), ("in August 2026", ["in August 2026"], False),
    ]  # fmt: skip


def test_figures_by_themselves_across_groups_and_times_of_day_are_said_in_words() -> None:
    usual = {"rows": "sailing", "of": "actual_arrival", "since": "actual_departure", "unit": "minutes",
             "within": "route.code", "words": "than is usual"}  # fmt: skip
    counted = {"rows": "vessel", "figure": "count", "only": [CANCELLED]}
    given = {"rows": "sailing", "figures": [{"figure": "count"}],
             "per": [{"column": "vessel.name"}, {"column": "route.code"}],
             "only": [{"column": "scheduled_departure", "unit": "clock", "values": ["07:30"]},
                      {"worth": {"of": "actual_arrival", "since": "actual_departure", "unit": "minutes"}, "is": "more",
                       "than": usual},
                      {"column": "sailing.id", "is": "less", "than": counted}],
             "across": {"figure": "average", "per": [1], "words": "on average"}}  # fmt: skip
    told = [part.text for part in understood_as(Reading.model_validate(given), Notes(), NOW)]
    assert told[1:4] == [
        "clock of scheduled_departure is 07:30",
        "minutes from actual_departure to actual_arrival more than the average of minutes from actual_departure to "
        "actual_arrival of the same route.code",
        "sailing.id less than the number of vessel where status is cancelled",
    ]
    assert told[-1] == "the average of figure 1 for each route.code"
