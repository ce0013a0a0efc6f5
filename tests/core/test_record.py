"""How an inquiry is kept: what is written is read, earlier versions through steps, later ones not at all."""

from __future__ import annotations

import datetime as dt
import json
from dataclasses import replace
from typing import Any

import pytest
from pydantic import ValidationError

from harquel.contract import Inquiry as Shown
from harquel.core.domain.again import Before
from harquel.core.domain.clarify import Choice, Clarify
from harquel.core.domain.earlier import Earlier
from harquel.core.domain.findings import Finding, Ruling
from harquel.core.domain.inquiry import (
    Answer,
    Attempt,
    Caveat,
    Draft,
    Hold,
    Inquiry,
    ProblemNote,
    ResultColumn,
    ResultTable,
    SecondOpinion,
)
from harquel.core.domain.record import VERSION, read, written
from harquel.core.domain.redraft import Redraft
from harquel.core.errors import ConfigurationError

AT = dt.datetime(2026, 9, 14, 10, tzinfo=dt.UTC)
TABLE = ResultTable(columns=[ResultColumn(name="n", type="integer")], rows=[[1], [None]], row_count=2, cut_by="rows")
WHOLE = Inquiry(
    id="a1", state="ended", outcome="answered", trust="caution", source="ferries", question="How many?",
    asked_by="Ada Brinewell", asked_at=AT, as_of=AT, silenced=["unasked"], choice="sailing",
    answer=Answer(text="One.", sql="SELECT 1", table=TABLE, caveats=[Caveat(rule="unit", message="In what?")]),
    clarify=Clarify(question="Which?", choices=[Choice(id="x", label="X")]),
    second_opinion=SecondOpinion(model="other", agrees=False, said="another figure", table=TABLE),
    problem=ProblemNote(type="t", title="T"), hold=Hold(policy_line="approval", reason="large", since=AT),
    attempts=[
        Attempt(
            number=1, draft=Draft(sql="SELECT 1", explanation="", model="m"),
            rulings=[Ruling(on="text", verdict="run", policy_line="reads", reason="It reads.")],
            findings=[Finding(rule="unit", severity="warning", message="In what?", start=3, end=9)],
        )
    ],
)  # fmt: skip


def test_what_is_written_is_read() -> None:
    kept = json.loads(json.dumps(written(WHOLE)))
    assert (kept["v"], read(kept)) == (VERSION, WHOLE)


def test_rows_of_an_earlier_inquiry_are_kept_with_nothing_that_has_ended() -> None:
    """Whatever ended it, and wherever: a conductor that was lost puts nothing in order."""
    again = Before(inquiry="b", asked_at=AT, sql="SELECT 1", columns=["n"], rows=[["secret"]])
    other = Redraft(inquiry="b", columns=["n"], types=["text"], rows=[["secret"]])
    earlier = Earlier(inquiry="b", question="How many secrets?")
    lost = replace(WHOLE, outcome="failed", answer=None, again=again, redraft=other, earlier=earlier)
    assert "secret" not in json.dumps(written(lost))
    assert read(written(lost)).redraft == Redraft(inquiry="b")
    held = replace(lost, state="held", outcome=None)
    assert read(written(held)) == held, "what is under way still needs them"


def test_a_record_without_a_version_is_the_first() -> None:
    """As the contract showed it then, with a place for a chart that was never filled."""
    first = Shown.model_validate(WHOLE, from_attributes=True).model_dump(mode="json")
    assert first["answer"]["chart"] is None
    assert read(first) == WHOLE
    unanswered: dict[str, Any] = {**first, "answer": None}
    assert read(unanswered).answer is None


def test_a_record_of_a_later_version_is_not_guessed_at() -> None:
    with pytest.raises(ConfigurationError, match="newer Harquel"):
        read({**written(WHOLE), "v": VERSION + 1})
    with pytest.raises(ValidationError):
        read({"v": VERSION, "id": "a1"})


def test_everything_that_is_kept_can_be_shown() -> None:
    shown = Shown.model_validate(WHOLE, from_attributes=True).model_dump(mode="json")
    kept = written(WHOLE)

    def missing(one: Any, other: Any, at: str = "") -> list[str]:
        if isinstance(one, dict):
            gone = [f"{at}.{name}" for name in one if name not in other]
            return gone + [m for n, v in one.items() if n in other for m in missing(v, other[n], f"{at}.{n}")]
        if isinstance(one, list):
            return [m for v, w in zip(one, other, strict=True) for m in missing(v, w, at)]
        return [] if one == other else [f"{at}: {one} is shown as {other}"]

    assert missing(kept, shown) == [".v"]
