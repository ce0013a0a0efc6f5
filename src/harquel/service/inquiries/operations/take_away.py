"""An answer as a file."""

from __future__ import annotations

from harquel.contract import ExportWish
from harquel.core.answers.exports import File, exported
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, operation

from ..finding import INQUIRY
from ..models import StoredInquiry
from ..shapes import inquiry_shape


@operation("inquiry.take-away", takes=ExportWish, about=INQUIRY)
def take_away(call: Call[ExportWish, StoredInquiry]) -> File:
    """The answer of an inquiry as a file, with what it stands on: CSV, JSON, a workbook, Markdown, a page of HTML."""
    inquiry = inquiry_shape(call.about)
    if inquiry.answer is None:
        raise ProblemError(
            409, "no-answer", "This inquiry has no answer that could be taken away.",
            "Wait until it has ended, or ask anew: only what was answered has rows.",
        )  # fmt: skip
    return exported(inquiry, call.asked.form)
