"""What follows an answer, for a model: the wish to say it as one question that stands by itself, and the reply."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from harquel.contract.asking import QUESTION_LIMIT
from harquel.core.llm.model import Message
from harquel.core.prompts.compose import moment, opened
from harquel.core.prompts.reply import LONGEST, object_in, without_thinking
from harquel.core.prompts.templates import SHIPPED, Prompts

_SAYS: Final = frozenset({"question", "alone", "nothing", "ask"})
_MOST_READINGS: Final = 6
_LONGEST_READING: Final = 400


@dataclass(frozen=True)
class Before:
    """What a model is told of the inquiry that is followed. No figure of it is here."""

    question: str
    asked_at: dt.datetime | None = None
    """The instant that it was about, as clocks show it where people are."""
    understood: Sequence[str] = ()
    """How it was understood, part by part."""
    does: str = ""
    """What its statement does, in words."""
    asked_back: str = ""
    ways: Sequence[str] = ()


@dataclass(frozen=True)
class StandsAlone:
    """The question in full; None where what was said is one already."""

    question: str | None


@dataclass(frozen=True)
class AsksNothing:
    """What was said asks for nothing."""


@dataclass(frozen=True)
class CanMean:
    """It can be meant in several ways: what to ask back, and whole questions to choose from."""

    question: str
    readings: tuple[str, ...]


@dataclass(frozen=True)
class NotSaid:
    """Nothing usable; `fault` says so for the model."""

    fault: str


FollowUp = StandsAlone | AsksNothing | CanMean | NotSaid


def compose_follow_up(
    before: Before, said: str, now: dt.datetime, person: str, prompts: Prompts = SHIPPED
) -> list[Message]:  # fmt: skip
    """The wish."""
    another_day = before.asked_at is not None and before.asked_at.date() != now.date()
    return opened(
        prompts, "follow", now=moment(now), person=person, earlier=before.question, understood=before.understood,
        asked_then=moment(before.asked_at) if before.asked_at is not None and another_day else "", does=before.does,
        asked_back=before.asked_back, ways=before.ways, said=said,
    )  # fmt: skip


def said_again(fault: str, prompts: Prompts = SHIPPED) -> Message:
    """What is wrong with the last reply, as the next message to the model."""
    return {"role": "user", "content": prompts.write("follow", "faults", faults=[fault])}


def follow_up_of(reply: str) -> FollowUp:
    """What a reply says. Never raises: one that cannot be used is a NotSaid."""
    if len(reply) > LONGEST:
        return NotSaid(f"The reply has more than {LONGEST:,} characters.")
    found = object_in(without_thinking(reply), _SAYS)
    if found is None:
        return NotSaid('The reply holds no JSON object with "question".')
    question = found.get("question")
    if isinstance(question, str) and question.strip():
        whole = " ".join(question.split())
        if len(whole) > QUESTION_LIMIT:
            return NotSaid(f"The question has more than {QUESTION_LIMIT:,} characters.")
        return StandsAlone(whole)
    if found.get("alone") is True:
        return StandsAlone(None)
    if found.get("nothing") is True:
        return AsksNothing()
    readings = found.get("readings")
    said = [" ".join(r.split()) for r in readings if isinstance(r, str)] if isinstance(readings, list) else []
    ways = [way for way in said if 0 < len(way) <= _LONGEST_READING]
    ask = found.get("ask")
    if isinstance(ask, str) and ask.strip() and len(ways) > 1:
        return CanMean(" ".join(ask.split())[:_LONGEST_READING], tuple(dict.fromkeys(ways))[:_MOST_READINGS])
    return NotSaid('"question" is not a text, and nothing else says what is asked.')
