"""Asking back and second opinions over HTTP: what is stored, who may reply, what is on record."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from harquel.client import Harquel, HarquelError, Invalid, NotFound
from harquel.client.describing import document, keep, replace_document
from harquel.demo.stage import Stage

OPEN = "How many were cancelled in August 2026?"
FUEL = "Litres of fuel per vessel and month this year"


@pytest.fixture(scope="module")
def back(stage: Stage) -> Iterator[tuple[Harquel, str]]:
    """An inquiry that asked back."""
    with Harquel(stage.url, stage.token) as client:
        found = client.ask(OPEN, "ferries")
        assert (found.outcome, found.answer) == ("clarify", None)
        yield client, found.id


def test_a_reply_is_a_new_inquiry_with_the_question_and_the_reading(back: tuple[Harquel, str]) -> None:
    client, key = back
    offered = client.inquiry(key).clarify
    assert offered is not None
    assert [(c.id, c.label) for c in offered.choices] == [("meant-1", "bookings: 87"), ("meant-2", "sailings: 12")]
    sailings, bookings = (client.choose(key, choice) for choice in ("meant-2", "meant-1"))
    assert (sailings.source, sailings.question, sailings.follows, sailings.choice) == ("ferries", OPEN, key, "meant-2")
    assert sailings.standalone_question == f"{OPEN} (meaning: sailings)"
    assert sailings.answer is not None
    assert bookings.answer is not None
    assert (sailings.answer.table.rows, sailings.trust) == ([[12]], "clear")
    assert bookings.answer.table.rows != [[12]]
    assert "booking" in bookings.answer.sql
    assert client.inquiry(sailings.id) == sailings
    accepted = next(e for e in client.events(sailings.id) if e.kind == "accepted")
    assert (accepted.facts["choice"], accepted.facts["follows"]) == ("meant-2", key)
    ended = [e for e in client.events(key) if e.kind == "ended"]
    assert ended[0].texts["asked_back"].startswith("The question can be meant in ways")


def test_what_was_not_offered_cannot_be_chosen(back: tuple[Harquel, str], stage: Stage) -> None:
    client, key = back
    with pytest.raises(Invalid, match="nonsense was not offered") as caught:
        client.choose(key, "nonsense")
    assert "meant-1, meant-2" in caught.value.hint
    answered = client.ask("How many vessels are there?", "ferries")
    with pytest.raises(HarquelError, match="did not ask back"):
        client.choose(answered.id, "meant-1")
    made = client.create_token("another", "Odo Finch", ["ferries"], ["ask"])
    with Harquel(stage.url, made.secret) as other, pytest.raises(NotFound):
        other.choose(key, "meant-1")


def test_what_a_part_could_have_meant_instead_can_be_chosen(client: Harquel, stage: Stage) -> None:
    """Among what catalog and notes offer, and nothing else; by nobody who may not read the inquiry."""
    found = client.ask("How many sailings were cancelled in August 2026?", "ferries")
    opinion = found.second_opinion
    assert opinion is not None
    assert [(p.text, p.words, p.assumed) for p in opinion.parts[1:3]] == [
        ("sailing.status is cancelled", ["cancelled"], False),
        ("in August 2026", ["in August 2026"], False),
    ]
    offered = {offer.label: offer for offer in opinion.instead}
    assert list(offered) == [
        "scheduled", "departed", "arrived", "by actual departure of sailing", "by scheduled arrival of sailing",
        "by actual arrival of sailing",
    ]  # fmt: skip
    arrived = client.choose(found.id, offered["arrived"].id)
    assert (arrived.follows, arrived.choice) == (found.id, "instead-3")
    assert arrived.standalone_question == "How many sailings were arrived in August 2026?"
    assert arrived.answer is not None
    assert (arrived.answer.table.rows, arrived.trust) == ([[447]], "clear")
    with pytest.raises(Invalid, match="instead-9 was not offered"):
        client.choose(found.id, "instead-9")
    made = client.create_token("elsewhere", "Odo Finch", ["ferries"], ["ask"])
    with Harquel(stage.url, made.secret) as other, pytest.raises(NotFound):
        other.choose(found.id, "instead-3")


def test_a_steward_writes_a_correction_into_the_notes(client: Harquel, stage: Stage) -> None:
    before = client.send(document("ferries", "notes"))
    found = client.ask("How many bookings were made in August 2026?", "ferries")
    opinion = found.second_opinion
    assert opinion is not None
    offer = next(o for o in opinion.instead if o.label == "by scheduled departure of sailing")
    assert offer.lasting is not None
    assert (offer.lasting.table, offer.lasting.column) == ("booking", "sailing.scheduled_departure")
    corrected = client.choose(found.id, offer.id)
    with pytest.raises(HarquelError, match="corrects nothing that could stand in the notes"):
        client.send(keep(found.id))
    made = client.create_token("asks only", "Odo Finch", ["ferries"], ["ask"])
    with Harquel(stage.url, made.secret) as other, pytest.raises(HarquelError):
        other.send(keep(corrected.id))
    assert client.send(document("ferries", "notes")).number == before.number
    try:
        kept = client.send(keep(corrected.id))
        assert (kept.number, kept.origin) == (before.number + 1, "correction")
        assert "when: sailing.scheduled_departure" in kept.text
        assert client.send(keep(corrected.id)).number == kept.number
        changed = [e for e in client.ledger().items if e.kind == "document-changed"]
        assert changed[0].who == kept.who
    finally:
        client.send(replace_document("ferries", "notes", before.text, force=True))


def test_another_result_of_a_second_draft_is_kept_with_the_answer(client: Harquel) -> None:
    found = client.ask(FUEL, "pair")
    opinion = client.inquiry(found.id).second_opinion
    assert opinion is not None
    assert opinion.table is not None
    assert (opinion.model, opinion.agrees, len(opinion.table.rows)) == ("careful", False, 47)
    assert found.answer is not None
    assert "second-differs" in [c.rule for c in found.answer.caveats]
    events = list(client.events(found.id))
    # The model was told, and repeated itself.
    said = "47 rows instead of 5. This answer stops after 5 rows; without that the two agree"
    assert [e.texts["said"] for e in events if e.kind == "compared"] == [said, said]
    assert events[-1].facts["second_agrees"] is False
    assert client.verify_ledger().intact


def test_a_silenced_finding_is_on_record_and_on_the_answer(client: Harquel) -> None:
    found = client.ask(FUEL, "pair", silence=["second-differs"])
    assert found.silenced == ["second-differs"]
    assert found.answer is not None
    said = {c.rule: c.message for c in found.answer.caveats}
    assert list(said) == ["silenced"]
    assert "stops after 5 rows" in said["silenced"]
    events = list(client.events(found.id))
    assert events[0].facts["silenced"] == events[-1].facts["silenced"] == ["second-differs"]
    with pytest.raises(Invalid, match="no finding of review") as caught:
        client.ask(FUEL, "pair", silence=["second-differ"])
    assert caught.value.hint == "The nearest is second-differs."


def test_what_is_asked_of_an_inquiry_survives_a_crash(new_stage: Callable[..., Stage], tmp_path: Path) -> None:
    stage = new_stage(tmp_path / "crash", pace_s=8.0)
    with stage:
        with Harquel(stage.url, stage.token) as client:
            key = client.ask(OPEN, "ferries").id
            reply = client.choose(key, "meant-2", wait_s=0).id
            quiet = client.ask("How many vessels are there?", "ferries", wait_s=0, silence=["multiplied"]).id
        stage.processes[-1].kill()
        stage.processes[-1].wait()
    with stage, Harquel(stage.url, stage.token) as client:
        kept, silenced = client.inquiry(reply), client.inquiry(quiet)
        assert (kept.outcome, kept.choice, kept.standalone_question) == (
            "failed",
            "meant-2",
            f"{OPEN} (meaning: sailings)",
        )
        assert silenced.silenced == ["multiplied"]
        assert client.verify_ledger().intact
