"""What goes along with the rows: what was asked, of what, when, how it was worked out, and what is doubtful."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from harquel.contract import Answer, Inquiry
from harquel.core.language.say import say

Kind = Literal["question", "answer", "trust", "caveat", "sql", "else"]
"""What a ground is, for a form that gives it a place of its own."""


@dataclass(frozen=True)
class Ground:
    """One of them, in the language of the inquiry."""

    label: str
    text: str
    kind: Kind = "else"


def grounds(inquiry: Inquiry, answer: Answer) -> Iterator[Ground]:
    """Each with what it is called, in the order in which they are read."""
    language = inquiry.language
    yield Ground(say(language, "ground-question"), inquiry.standalone_question or inquiry.question, "question")
    yield Ground(say(language, "ground-answer"), answer.text, "answer")
    if answer.worded is not None and answer.worded.plain != answer.text:
        worded = say(language, "ground-worded-every-figure", model=answer.worded.model)
        yield Ground(say(language, "ground-worded"), worded)
    if answer.remark:
        yield Ground(say(language, "ground-remark"), answer.remark)
    yield Ground(say(language, "ground-trust"), mark(inquiry), "trust")
    for caveat in answer.caveats:
        yield Ground(say(language, "ground-caveat"), caveat.message, "caveat")
    yield Ground(say(language, "ground-source"), inquiry.source)
    if inquiry.as_of is not None:
        yield Ground(say(language, "ground-as-of"), f"{inquiry.as_of:%Y-%m-%d %H:%M} UTC")
    if answer.fresh is not None:
        yield Ground(say(language, "ground-data"), answer.fresh.said)
    yield Ground(say(language, "ground-asked-by"), f"{inquiry.asked_by}, {inquiry.asked_at:%Y-%m-%d %H:%M} UTC")
    for line in answer.lines:
        yield Ground(line.label, line.text)
    if not answer.lines and answer.read_back:
        yield Ground(say(language, "ground-read-back"), answer.read_back)
    for measure in answer.measures:
        label = say(language, "ground-measure", name=measure.name, version=str(measure.version))
        yield Ground(label, measure.text or measure.name)
    if answer.table.cut_by is not None:
        cut = say(language, "ground-cut-after", n=f"{answer.table.row_count:,}")
        yield Ground(say(language, "ground-cut"), cut)
    yield Ground("SQL", answer.sql, "sql")
    yield Ground(say(language, "ground-inquiry"), inquiry.id)


def mark(inquiry: Inquiry) -> str:
    """The trust mark in words, and whether another way gave the same rows."""
    told, two_ways = say(inquiry.language, f"trust-{inquiry.trust}"), say(inquiry.language, "ground-two-ways")
    agrees = inquiry.second_opinion is not None and inquiry.second_opinion.agrees
    return f"{told} · {two_ways}" if agrees else told
