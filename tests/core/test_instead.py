"""What a part of a reading could have meant instead: only what catalog and notes offer to this person, and no more than
anybody reads.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from harquel.core.briefing import Describer
from harquel.core.domain.notes import Notes
from harquel.core.domain.person import Person
from harquel.core.reading import Reading, instead_of, pieces, understood_as
from harquel.testing.sources import demo_notes, demo_policy, scanned

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
    told = understood_as(Reading.model_validate(given), demo_notes())
    assert [(part.text, pieces(part.words), part.assumed) for part in told] == [
        ("rows of sailing", ["How many", "sailings"], False), ("status is cancelled", ["cancelled"], False),
        ("vessel.name is Aurelie", [], True), ("from 2026-08-01 until before 2026-09-01", ["in August 2026"], False),
    ]  # fmt: skip
