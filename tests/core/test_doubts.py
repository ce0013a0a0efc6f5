"""What becomes of doubtful drafts and of results, with a model by script and a real database."""

from __future__ import annotations

from dataclasses import replace

import pytest

from harquel.core.briefing import Describer
from harquel.core.domain.events import Unwatched
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Approval
from harquel.core.inquiry.conduct import conduct, go_on
from harquel.testing.scripted import Scripted
from harquel.testing.sources import NOW, ask
from tests.core.conftest import Make

QUESTION = "How many sailings were cancelled in August 2026?"
WRONG = "SELECT COUNT(*) FROM sailing WHERE status = 'cancelled' AND scheduled_departure >= '2026-08-01'"
WORSE = "SELECT SUM(DISTINCT id) FROM sailing_archive WHERE status = 'cancelled'"
RIGHT = (
    "SELECT COUNT(*) FROM sailing WHERE status = 'X' AND scheduled_departure >= '2026-08-01' "
    "AND scheduled_departure < '2026-09-01'"
)


def test_a_doubtful_draft_is_repaired_and_what_changed_is_kept(make: Make) -> None:
    source = make(Scripted(WRONG, RIGHT))
    inquiry = ask(source, QUESTION)
    assert inquiry.answer is not None
    assert (inquiry.answer.table.rows, len(inquiry.attempts)) == ([[12]], 2)
    first, second = inquiry.attempts
    assert first.run is None
    assert [f.rule for f in first.findings] == ["code-by-meaning"]
    assert ("removed", "WHERE status = 'cancelled'") in [(c.kind, c.text) for c in second.changes]
    assert ("added", "AND scheduled_departure < '2026-09-01'") in [(c.kind, c.text) for c in second.changes]


def test_of_doubtful_drafts_the_best_goes_out_with_its_caveats(make: Make) -> None:
    source = make(Scripted(WRONG, WORSE, WORSE))
    inquiry = ask(source, QUESTION)
    assert inquiry.answer is not None
    assert (inquiry.outcome, inquiry.trust, len(inquiry.attempts)) == ("answered", "caution", 3)
    assert inquiry.answer.sql.startswith("SELECT COUNT(*) FROM sailing WHERE")
    assert inquiry.answer.caveats[0].rule == "code-by-meaning"
    assert [a.run is not None for a in inquiry.attempts] == [True, False, False]


def test_what_is_held_is_the_best_of_the_drafts(make: Make) -> None:
    source = make(Scripted(WRONG, WORSE, WORSE))
    policy = source.policy.model_copy(update={"approval": Approval(always=True)})
    held = ask(replace(source, describer=Describer(policy, source.notes)), QUESTION)
    assert (held.state, held.hold is not None) == ("held", True)
    last = held.attempts[-1]
    assert last.draft is not None
    assert last.draft.sql == WRONG
    released = go_on(held, source, Unwatched(), NOW, Person("Ada Brinewell"), "Rhea Quist")
    assert released.attempts[-1].draft is not None
    assert released.attempts[-1].draft.model == "scripted", "whoever released it drafted nothing"
    assert released.answer is not None
    assert (released.trust, released.answer.sql.startswith("SELECT COUNT(*) FROM sailing WHERE")) == ("caution", True)


def test_the_same_draft_twice_ends_the_repair(make: Make) -> None:
    source = make(Scripted(WRONG))
    assert len(ask(source, QUESTION).attempts) == 2


def caveats(make: Make, question: str, *drafts: str) -> list[tuple[str, str]]:
    source = make(Scripted(*drafts))
    inquiry = ask(source, question)
    assert inquiry.answer is not None, inquiry.problem
    # Nobody reads here.
    return [(c.rule, c.message) for c in inquiry.answer.caveats if c.rule != "unconfirmed"]


def test_the_condition_that_left_nothing_over_is_named(make: Make) -> None:
    question = "Which incidents of the category medical had a severity of 5 in July 2026?"
    draft = (
        "SELECT id FROM incident WHERE category = 'medical' AND severity = 5 AND reported_at >= '2026-07-01' "
        "AND reported_at < '2026-08-01'"
    )
    # There are incidents of that severity, only none of these: that is the answer, and no doubt.
    assert caveats(make, question, draft) == []
    source = make(Scripted(draft))
    found = ask(source, question)
    assert found.answer is not None
    assert "because of severity = 5; without it there are" in found.answer.text
    said = dict(caveats(make, "Which bookings came through fax?", "SELECT id FROM booking WHERE channel = 'fax'"))
    assert "because of channel = 'fax'; without it there are 14,907" in said["result-empty"]
    assert "'web' (7,204)" in said["result-empty"]
    # Where WHERE leaves nothing to group, HAVING is not the reason.
    grouped = "SELECT sailing_id FROM booking WHERE channel = 'fax' GROUP BY sailing_id HAVING COUNT(*) > 2"
    said = dict(caveats(make, "Sailings with more than 2 bookings through fax", grouped))
    assert "because of channel = 'fax'; without it there are 14,907" in said["result-empty"]


@pytest.mark.parametrize(
    ("question", "draft", "text"),
    [
        ("On which days in July 2026 were more than two sailings cancelled?",
         "SELECT date(scheduled_departure) AS day FROM sailing WHERE status = 'X' AND "
         "scheduled_departure >= '2026-07-01' AND scheduled_departure < '2026-08-01' GROUP BY day HAVING COUNT(*) > 2",
         "Nothing in the data meets these conditions. No group meets COUNT(*) > 2: COUNT(*) lies between 1 and 2."),
        ("Which vessels can carry more than 400 passengers?",
         "SELECT name FROM vessel WHERE passenger_capacity > 400",
         "Nothing in the data meets these conditions. No row is left because of passenger_capacity > 400; without it "
         "there are 6. There vessel.passenger_capacity is between 150 and 380."),
        ("Names of the harbours nobody lives in",
         "SELECT h.name FROM harbour h WHERE NOT EXISTS (SELECT 1 FROM customer c WHERE c.home_harbour = h.id AND "
         "c.deleted_at IS NULL)", "Nothing in the data meets these conditions."),
        ("Names of the harbours nobody lives in",
         "SELECT h.name FROM harbour h LEFT JOIN customer c ON c.home_harbour = h.id WHERE c.id IS NULL",
         "Nothing in the data meets these conditions. No row is left because of c.id IS NULL; without it there are "
         "2,400."),
    ],
)  # fmt: skip
def test_none_may_be_the_answer_where_the_data_names_the_reason(
    make: Make, question: str, draft: str, text: str
) -> None:
    source = make(Scripted(draft))
    inquiry = ask(source, question)
    assert inquiry.answer is not None
    assert ([c.rule for c in inquiry.answer.caveats], inquiry.answer.text) == (["unconfirmed"], text)


def test_rows_without_a_name_are_said_to_be_so(make: Make) -> None:
    draft = "SELECT cancel_reason, COUNT(*) AS n FROM sailing WHERE scheduled_departure >= '2026-01-01' GROUP BY 1"
    assert "result-unnamed" in [r for r, _ in caveats(make, "Reasons for cancellations since January 2026", draft)]
    # What an empty channel means stands in the notes.
    draft = "SELECT channel, COUNT(*) AS n FROM booking GROUP BY channel"
    assert caveats(make, "Number of bookings per channel", draft) == []


def test_a_tie_that_is_cut_off_is_said(make: Make) -> None:
    draft = (
        "SELECT r.code, COUNT(*) AS n FROM sailing s JOIN route r ON r.id = s.route_id GROUP BY r.code ORDER BY n DESC"
    )
    assert [r for r, _ in caveats(make, "Which route had the most sailings?", f"{draft} LIMIT 1")] == ["result-ties"]
    assert [r for r, _ in caveats(make, "Which route had the most sailings?", f"{draft}, r.code LIMIT 1")] == [
        "result-ties"
    ]
    assert caveats(make, "Which two routes had the most sailings?", f"{draft} LIMIT 2") == []
    # In the order of names alone nothing is level.
    named = "SELECT vessel_id, logged_at, litres FROM fuel_log JOIN vessel ON vessel.id = vessel_id ORDER BY name, {}"
    some = "Show some litres of fuel with vessel"
    assert "result-ties" not in [r for r, _ in caveats(make, some, named.format("logged_at LIMIT 5"))]


@pytest.mark.parametrize(
    ("question", "draft", "rule"),
    [
        ("Share of cancelled sailings", "SELECT 100.0 * COUNT(*) / SUM(CASE WHEN status = 'X' THEN 1 END) AS percent "
         "FROM sailing", "result-outside"),
        ("Routes and their berths", "SELECT r.code, h.island FROM route r JOIN harbour h ON h.id = r.from_harbour_id "
         "JOIN berth b ON b.harbour_id = h.id", "result-repeats"),
    ],
)  # fmt: skip
def test_results_that_cannot_be_are_doubted(make: Make, question: str, draft: str, rule: str) -> None:
    assert rule in [r for r, _ in caveats(make, question, draft)]


def test_not_in_is_not_doubted_where_it_let_something_through(make: Make) -> None:
    """Once an empty value were inside, nothing would come: what came shows that there is none. Not so below the top."""
    inside = (
        "SELECT COUNT(*) FROM crew_member WHERE left_on IS NULL AND id NOT IN (SELECT manager_id FROM crew_member {})"
    )
    question = "How many crew members lead nobody?"
    rules = [[r for r, _ in caveats(make, question, inside.format(where))] for where in ("", "WHERE id > 20")]
    assert ["not-in-nullable" in r for r in rules] == [True, False]
    for nothing in (inside.replace("COUNT(*)", "'none' AS what, COUNT(*)"), inside.replace("COUNT(*)", "COUNT(*) + 5"),
                    f"{inside.replace('COUNT(*)', 'id')} UNION ALL SELECT 7"):  # fmt: skip
        assert "not-in-nullable" in [r for r, _ in caveats(make, question, nothing.format(""))], nothing
    below = f"SELECT COUNT(*) + 5 FROM vessel WHERE 1 = 1 OR EXISTS ({inside.format('')})"
    assert "not-in-nullable" in [r for r, _ in caveats(make, question, below)]


def test_a_change_in_percent_may_lie_anywhere(make: Make) -> None:
    """Unlike a share; the one is told from the other by what is divided, not by its name."""
    counted = "SUM(scheduled_departure >= '{0}-08-01' AND scheduled_departure < '{0}-09-01')"
    now, before = counted.format(2026), counted.format(2025)
    draft = "SELECT 100.0 * ({} - {}) / {} AS percent FROM sailing"
    question = "Change of sailings in August 2026 against August 2025 in percent"
    assert "result-outside" not in [r for r, _ in caveats(make, question, draft.format(now, before, before))]
    assert "result-outside" in [r for r, _ in caveats(make, question, draft.format(f"{now} * 0.1", before, now))]


def test_a_value_that_was_never_seen_is_looked_up_once(make: Make) -> None:
    draft = "SELECT COUNT(*) FROM incident WHERE note = 'No such note.'"
    source = make(Scripted(draft))
    first = ask(source, "How many incidents have the note no such note?")
    ask(source, "How many incidents have the note no such note?")
    assert first.answer is not None
    assert "unknown-value" in [c.rule for c in first.answer.caveats]
    assert list(source.looked_up.values()) == [False]


def test_a_german_question_gets_its_read_back_in_german(make: Make) -> None:
    asked = Inquiry(
        id="test", state="working", source="ferries", question="Wie viele Überfahrten fielen im August 2026 aus?",
        asked_by="Ada Brinewell", asked_at=NOW, language="de",
    )  # fmt: skip
    source = make(Scripted(RIGHT))
    inquiry = conduct(asked, source, Unwatched(), NOW)
    assert inquiry.answer is not None
    assert str(inquiry.answer.read_back).startswith("Ergibt: die Anzahl Zeilen. Liest sailing.")
    assert [c.rule for c in inquiry.answer.caveats] == ["unconfirmed"]
