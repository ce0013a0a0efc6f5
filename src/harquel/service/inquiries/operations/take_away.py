"""An answer as a file."""

from __future__ import annotations

import threading
from typing import Any, Final

from harquel.contract import ExportWish
from harquel.core.answers.charts import redrawn
from harquel.core.answers.charts.drawn import WIDTH, Image, drawn
from harquel.core.answers.exports import File, exported
from harquel.core.domain.inquiry import Inquiry
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, operation

from ..finding import INQUIRY
from ..models import StoredInquiry
from ..shapes import inquiry_of, shape_of
from .draw import answer_of

_DRAWING: Final = threading.BoundedSemaphore(2)
_PATIENCE_S: Final = 5
_IMAGES: Final = {"svg": "image/svg+xml", "png": "image/png"}


@operation("inquiry.take-away", takes=ExportWish, about=INQUIRY)
def take_away(call: Call[ExportWish, StoredInquiry]) -> File:
    """The answer of an inquiry as a file, with what it stands on: CSV, JSON, a workbook, Markdown, a page of HTML; or
    its chart as SVG or PNG.
    """
    inquiry, wish = inquiry_of(call.about), call.asked
    answer_of(inquiry)
    if wish.form in _IMAGES:
        return _image(inquiry, wish)
    return exported(shape_of(inquiry), wish.form, _within(inquiry, wish) if wish.form == "html" else b"")


def _within(inquiry: Inquiry, wish: ExportWish) -> bytes:
    """The picture in a page: as it was chosen or wished, none where none was."""
    answer = answer_of(inquiry)
    if answer.chart is None:
        return b""
    found = redrawn(answer, wish, inquiry.language, width=WIDTH)
    return _one_of_few(found.spec, "svg") if found.spec is not None else b""


def _one_of_few(specification: dict[str, Any], image: Image) -> bytes:
    """An image, while no more than a few are being drawn: a large one takes a processor for seconds."""
    if not _DRAWING.acquire(timeout=_PATIENCE_S):
        raise ProblemError(
            429, "too-busy", "Too many pictures are being drawn.", "Try again in a few seconds.",
            {"Retry-After": str(_PATIENCE_S)},
        )  # fmt: skip
    try:
        return drawn(specification, image)
    finally:
        _DRAWING.release()


def _image(inquiry: Inquiry, wish: ExportWish) -> File:
    found = redrawn(answer_of(inquiry), wish, inquiry.language, wish.dark == "1", WIDTH)
    if found.spec is None:
        raise ProblemError(
            409,
            "no-picture",
            f"There is no picture of this answer. {found.note}".strip(),
            "Take its rows away instead.",
        )
    content = _one_of_few(found.spec, "svg" if wish.form == "svg" else "png")
    return File(f"{inquiry.source}-{inquiry.id}.{wish.form}", _IMAGES[wish.form], content)
