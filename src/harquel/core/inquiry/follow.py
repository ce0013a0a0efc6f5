"""What follows an answer becomes a question that stands by itself; then it is one like any other.

What must hold: nothing of what was answered before goes along, no figure and no row, and whoever asks is shown the
question that is asked instead of theirs. What of the earlier one is told to a model beside its question, whoever asks
may see now: its statement is ruled on anew before it is read back, and so is one built from its reading before that is
told part by part; what was asked back is told only where the same exists for whoever asks as did then.
"""

from __future__ import annotations

import re
from contextlib import suppress
from decimal import Decimal, InvalidOperation
from typing import Final

from pydantic import ValidationError

from harquel.contract import events
from harquel.contract.asking import QUESTION_LIMIT
from harquel.core.answers import read_back
from harquel.core.domain.earlier import Earlier
from harquel.core.domain.inquiry import Caveat, ResultTable
from harquel.core.domain.statements import DraftedStatement
from harquel.core.inquiry import endings
from harquel.core.inquiry.answer import language
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.open_point import OpenPoint, Way
from harquel.core.language import language_of, pack
from harquel.core.language.periods import periods_in
from harquel.core.language.say import said_as, say
from harquel.core.prompts.follow_up import (
    AsksNothing,
    Before,
    CanMean,
    NotSaid,
    StandsAlone,
    compose_follow_up,
    follow_up_of,
    said_again,
)
from harquel.core.reading import Changed, NoControl, Reading, by_keys, changed, control, understood_as
from harquel.core.reading.following import apart, asks_why, parts_of
from harquel.core.reading.ground import in_known_words
from harquel.core.reading.moving import moved

DUTY: Final = "follow-up"
_TRIES: Final = 2
_MOST_PARTS: Final = 40
"""Parts of a figure that still tell what it is made of."""
_NUMBER: Final = re.compile(r"\d+")
_MOST: Final = 5
"""Numbers named in a fault."""
_NUMERIC: Final = frozenset({"integer", "number", "decimal"})


def restate(course: Course) -> None:
    """Puts what is asked into words that stand alone, where it follows something. Raises AskedBack, ModelError, End."""
    inquiry, earlier = course.inquiry, course.inquiry.earlier
    if earlier is None:
        return
    inquiry.earlier = None
    if earlier.anew:
        course.read_as = _moved(course, earlier)
        return
    with course.clock.phase("prompt"):
        reading = _reading_of(earlier)
        made = _changed(course, earlier, reading) if reading is not None else None
    if made is None and reading is not None:
        made = _taken_apart(course, earlier, reading)
    if made is not None:
        course.read_as, course.claimed, course.beside = made.reading, made.claimed, made.beside
        _take(course, made.question, "reading")
        return
    with course.doing(DUTY):
        question = _by_a_model(course, earlier, reading)
    if question is not None:
        course.claimed = _left_out(course, question)
    _take(course, question, "model" if question is not None else "alone")


def _moved(course: Course, earlier: Earlier) -> Reading | None:
    """How the same question is understood now; None where a model has to say that anew."""
    reading, calendar = _reading_of(earlier), course.source.notes.calendar
    if reading is None or earlier.as_of is None:
        return None
    found = moved(reading, earlier.question, calendar.here(earlier.as_of), course.now, calendar)
    return found[0] if found is not None else None


def _take(course: Course, question: str | None, by: str) -> None:
    inquiry = course.inquiry
    if question is not None and len(question) > QUESTION_LIMIT:
        raise endings.follow_up_unclear()
    if question is not None and question != inquiry.question:
        inquiry.standalone_question = question
    restated = events.Restated.model_validate({"by": by})
    course.tell(restated, {"question": inquiry.standalone_question or inquiry.question})


def _reading_of(earlier: Earlier) -> Reading | None:
    try:
        return Reading.model_validate(earlier.reading) if earlier.reading is not None else None
    except ValidationError:
        # From a time when the form was another one.
        return None


def _changed(course: Course, earlier: Earlier, reading: Reading) -> Changed | None:
    spoken = language_of(earlier.question)
    return changed(reading, earlier.question, course.inquiry.question, spoken, course.index, course.now)


def _taken_apart(course: Course, earlier: Earlier, reading: Reading) -> Changed | None:
    """Why a figure is what it is: the same for each of what sets its parts apart most, by small queries of ours."""
    spoken = language_of(earlier.question)
    if not asks_why(course.inquiry.question, spoken):
        return None
    found: list[tuple[float, Changed]] = []
    notes, engine = course.source.notes, course.source.engine
    for one in parts_of(reading, earlier.question, spoken, course.index):
        with suppress(NoControl):
            seen = by_keys(one.reading, course.catalog, course.withholds)
            rows = course.look(control(seen, course.catalog, notes, engine, course.now), planned=True)
            if rows and len(rows) <= _MOST_PARTS:
                found.append((apart(rows), Changed(one.question, one.reading)))
    return max(found, key=lambda weighed: weighed[0])[1] if found else None


def _by_a_model(course: Course, earlier: Earlier, reading: Reading | None) -> str | None:
    """The question; None where what is said stands alone already."""
    inquiry = course.inquiry
    before = _before(course, earlier, reading)
    with course.clock.phase("prompt"):
        messages = compose_follow_up(
            before, inquiry.question, course.now, inquiry.asked_by, course.source.prompts
        )  # fmt: skip
    texts = [before.question, *before.understood, before.asked_back, *before.ways, inquiry.question]
    model = course.source.follower or course.source.model
    for _ in range(_TRIES):
        reply = course.ask(model, messages, 0)
        said = follow_up_of(reply)
        if isinstance(said, StandsAlone):
            said = _founded(said, texts, course)
        if isinstance(said, StandsAlone):
            return said.question
        if isinstance(said, AsksNothing):
            raise endings.asks_nothing()
        if isinstance(said, CanMean):
            raise _asked_back(course, said)
        told = said_again(said.fault, course.source.prompts)
        messages = [*messages, {"role": "assistant", "content": reply}, told]
    raise endings.follow_up_unclear()


def _asked_back(course: Course, said: CanMean) -> endings.AskedBack:
    course.tell(events.AskedBack(readings=list(said.readings)))
    ways = tuple(Way(str(n), text, "", text) for n, text in enumerate(said.readings, 1))
    return endings.AskedBack(OpenPoint(said_as("model-asks", question=endings.quote(said.question)), ways))


def _before(course: Course, earlier: Earlier, reading: Reading | None) -> Before:
    """What a model is told of it."""
    spoken, notes = language(course), course.source.notes
    as_of = notes.calendar.here(earlier.as_of) if earlier.as_of is not None else course.now
    parts = understood_as(reading, notes, as_of, spoken) if reading is not None and _may_run(course, reading) else []
    does = ""
    if earlier.sql:
        ruled = course.rule(DraftedStatement(earlier.sql))
        if ruled.statement is not None and ruled.tree is not None:
            does = read_back(course.read(ruled.tree), notes, spoken)
    asked_back, ways = earlier.asked_back, earlier.ways
    if earlier.sight != course.sight():
        asked_back, ways = "", []
    return Before(earlier.question, as_of, [part.text for part in parts], does, asked_back, ways)


def _may_run(course: Course, reading: Reading) -> bool:
    """Whether a statement that holds all of a reading would be let through for whoever asks now."""
    try:
        sql = control(reading, course.catalog, course.source.notes, course.source.engine, course.now)
    except NoControl:
        return False
    return course.rule(sql).statement is not None


def _founded(said: StandsAlone, texts: list[str], course: Course) -> StandsAlone | NotSaid:
    """Numbers of a question come from what was said or stand in a period: else they were made up."""
    if said.question is None:
        return said
    known = {number.lstrip("0") for text in texts for number in _NUMBER.findall(text)}
    spoken = pack(language_of(said.question))
    plain = in_known_words(said.question, spoken)
    spans = [(p.first, p.last) for p in periods_in(plain, course.now, course.source.notes.calendar)]
    made_up = dict.fromkeys(
        found[0] for found in _NUMBER.finditer(plain)
        if found[0].lstrip("0") not in known and not any(a <= found.start() < b for a, b in spans)
    )  # fmt: skip
    if not made_up:
        return said
    return NotSaid(f"Nobody said these numbers: {', '.join(list(made_up)[:_MOST])}. Leave out what was not said.")


def _left_out(course: Course, question: str) -> tuple[str, ...]:
    """Numbers that were said and that a question made of it does not hold: figures that somebody takes for the answer,
    or passed over. Those of periods are said otherwise there.
    """
    said = course.inquiry.question
    plain = in_known_words(said, pack(language_of(said)))
    spans = [(p.first, p.last) for p in periods_in(plain, course.now, course.source.notes.calendar)]
    kept = {number.lstrip("0") for number in _NUMBER.findall(question)}
    return tuple(dict.fromkeys(
        found[0] for found in _NUMBER.finditer(plain)
        if found[0].lstrip("0") not in kept and not any(a <= found.start() < b for a, b in spans)
    ))  # fmt: skip


def _figure(course: Course, table: ResultTable) -> Decimal | None:
    """The one figure of a result that one claim can be held against."""
    if table.row_count != 1 or not table.rows or len(course.claimed) != 1:
        return None
    figures = [
        v for v, column in zip(table.rows[0], table.columns, strict=True)
        if column.type in _NUMERIC and column.role is None and v is not None
    ]  # fmt: skip
    try:
        return Decimal(str(figures[0])) if len(figures) == 1 else None
    except InvalidOperation:
        return None


def answer_claim(course: Course) -> None:
    """Tells whoever named a figure whether it is the one that came; what can be held against none was passed over, and
    the answer is told as one without it.
    """
    inquiry = course.inquiry
    answer = inquiry.answer
    if answer is None or not course.claimed:
        return
    figure = _figure(course, answer.table)
    if figure is None:
        message = say(inquiry.language, "caveat-said-left-out", numbers=", ".join(course.claimed[:_MOST]))
        answer.caveats = [*answer.caveats, Caveat(rule="said-left-out", message=message)]
        inquiry.trust = "caution"
        return
    said = "claim-right" if figure == Decimal(course.claimed[0]) else "claim-wrong"
    answer.text = f"{answer.text} {say(course.inquiry.language, said, claimed=course.claimed[0])}"
