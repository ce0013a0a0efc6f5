"""The chart of an answer, as it was chosen or as it is wished."""

from __future__ import annotations

from harquel.contract import Drawing, DrawWish
from harquel.core.answers.charts import redrawn
from harquel.core.domain.inquiry import Answer, Inquiry
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, operation

from ..finding import INQUIRY
from ..models import StoredInquiry
from ..shapes import inquiry_of


@operation("inquiry.draw", takes=DrawWish, about=INQUIRY, gives=Drawing)
def draw(call: Call[DrawWish, StoredInquiry]) -> Drawing:
    """The chart of an answer as a specification of Vega-Lite, from the rows that are kept: nothing is asked again."""
    inquiry = inquiry_of(call.about)
    must_have_rows(answer_of(inquiry))
    made = redrawn(answer_of(inquiry), call.asked, inquiry.language, call.asked.dark == "1")
    return Drawing.model_validate(made, from_attributes=True)


def answer_of(inquiry: Inquiry) -> Answer:
    """Its answer. Raises ProblemError where there is none."""
    if inquiry.answer is None:
        raise ProblemError(409, "no-answer", "problem-no-answer")
    return inquiry.answer


def must_have_rows(answer: Answer) -> None:
    """Raises ProblemError for an answer whose rows are kept no more."""
    table = answer.table
    if table.row_count and not table.rows:
        raise ProblemError(410, "no-longer-kept", "problem-rows-no-longer-kept")
