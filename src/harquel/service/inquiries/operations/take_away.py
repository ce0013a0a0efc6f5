"""An answer as a file."""

from __future__ import annotations

from typing import Final

from harquel import contract
from harquel.contract import ExportWish, events
from harquel.core.answers.charts import redrawn
from harquel.core.answers.charts.drawn import WIDTH
from harquel.core.answers.exports import File, Pieces, as_pieces, exported
from harquel.core.domain.inquiry import Inquiry
from harquel.service.deliveries import TooManyOpen
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime
from harquel.service.sources.finding import source_for

from ..finding import INQUIRY
from ..models import StoredInquiry
from ..pictures import chart_of, image_of
from ..shapes import inquiry_of, shape_of
from .draw import answer_of, must_have_rows

_IMAGES: Final = {"svg": "image/svg+xml", "png": "image/png"}


@operation(
    "inquiry.take-away", takes=ExportWish, about=INQUIRY,
    # Of an answer it only reads.
    entries=("taken-away",), rule="a whole result: one's own, while the policy lets whole results go",
)  # fmt: skip
def take_away(call: Call[ExportWish, StoredInquiry]) -> File | Pieces:
    """The answer of an inquiry as a file, with what it stands on: CSV, JSON, JSON Lines, a workbook, Markdown, a page
    of HTML; its chart as SVG or PNG; or the whole result that was written to a file, which goes on record.
    """
    inquiry, wish = inquiry_of(call.about), call.asked
    if answer_of(inquiry).delivery is not None:
        return _whole(call, inquiry)
    must_have_rows(answer_of(inquiry))
    if wish.form in _IMAGES:
        return _image(inquiry, wish)
    return exported(
        shape_of(inquiry, call.about.thread), wish.form, chart_of(inquiry, "svg", wish) if wish.form == "html" else b""
    )


def _whole(call: Call[ExportWish, StoredInquiry], inquiry: Inquiry) -> Pieces:
    """Raises ProblemError: another form, not one's own, not by the policy as it is now, no longer kept."""
    stored, caller, form = call.about, call.caller, call.asked.form
    if form not in ("csv", "jsonl"):
        raise ProblemError(409, "other-form", "problem-other-form")
    if stored.person_id != caller.person:
        raise ProblemError(403, "not-own-inquiry", "problem-not-own-whole")
    given = source_for(stored.source, caller, disabled_too=True).core.policy.delivery
    if given is None or (given.roles and not set(given.roles) & set(caller.roles)):
        raise ProblemError(403, "not-delivered", "problem-not-delivered")
    live = runtime()
    try:
        lines = live.deliveries.lines(stored.key)
    except TooManyOpen as full:
        raise ProblemError(429, "too-busy", "problem-files-busy", {"Retry-After": "60"}) from full
    if lines is None:
        raise ProblemError(410, "no-longer-kept", "problem-file-no-longer-kept")
    what = events.TakenAway(form=form, token=caller.token)
    live.writer.do(lambda: append(who=caller.name, what=what, inquiry=stored.key))
    columns = contract.ResultTable.model_validate(answer_of(inquiry).table, from_attributes=True).columns
    return as_pieces(f"{inquiry.source}-{inquiry.id}", form, columns, lines)


def _image(inquiry: Inquiry, wish: ExportWish) -> File:
    found = redrawn(answer_of(inquiry), wish, inquiry.language, wish.dark == "1", WIDTH)
    if found.spec is None:
        raise ProblemError(409, "no-picture", "problem-no-picture", note=found.note)
    content = image_of(found.spec, "svg" if wish.form == "svg" else "png")
    return File(f"{inquiry.source}-{inquiry.id}.{wish.form}", _IMAGES[wish.form], content)
