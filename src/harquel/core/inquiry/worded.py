"""A model words an answer, where one has that duty: from the result only, and what it says is held against the result.

What must hold: whatever it says, the answer says nothing that the rows do not; and no value leaves for it that may not.
"""

from __future__ import annotations

from harquel.core.answers.worded import LONGEST, MOST_ROWS, Facts, Known, checked, stands_alone
from harquel.core.domain.worded import Worded
from harquel.core.errors import ModelError
from harquel.core.inquiry import endings
from harquel.core.inquiry.answer import Confirmed, language
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.repair import Candidate
from harquel.core.prompts.wording import compose_wording, said_in

WORD = "word"


def word_answer(course: Course, candidate: Candidate, confirmed: Confirmed | None) -> None:
    """Puts the model's sentences in the place of ours, as far as they stand; whatever goes wrong, ours stays.

    Only where a second way confirms the rows: our sentence then names what they are of.
    """
    model, answer = course.source.worder, course.inquiry.answer
    if model is None or answer is None or confirmed is None or not _may_leave(course, candidate):
        return
    table = answer.table
    if not table.rows or len(table.rows) > MOST_ROWS or table.cut_by is not None:
        return
    asked, said = course.asked.question, language(course)
    try:
        with course.doing(WORD):
            messages = compose_wording(asked, answer.text, table, course.source.prompts)
            reply = course.ask(model, messages, candidate.attempt.number)
    except (ModelError, endings.End):
        return
    with course.clock.phase("answer"):
        under_way = answer.chart is not None and answer.chart.under_way
        names = [column.name for column in table.columns]
        known = Known(asked, answer.text, [*names, *course.source.notes.measures], said)
        facts = Facts.of(table, under_way)
        found = checked(said_in(reply)[: LONGEST + 1], facts, known)
    answer.worded = Worded(model=model.profile.name, plain=answer.text, struck=list(found.struck))
    if found.text and stands_alone(found.text, facts, known):
        answer.text = found.text


def _may_leave(course: Course, candidate: Candidate) -> bool:
    """Whether rows may be told to a model: values may, and none of a personal column is among them."""
    if course.source.policy.prompts.values != "all" or candidate.ruled.tree is None:
        return False
    reads = course.read(candidate.ruled.tree).names.reads
    for name, columns in reads.items():
        table = course.whole.table(name)
        if table is None or any(
            course.source.policy.is_personal(name, column) for column in table.columns if column.name in columns
        ):
            return False
    return True
