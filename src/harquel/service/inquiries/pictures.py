"""Charts as images, while no more than a few are being drawn: a large one takes a processor for seconds."""

from __future__ import annotations

import threading
from typing import Any, Final

from harquel.contract import DrawWish, ShownPicture
from harquel.core.answers.charts import redrawn
from harquel.core.answers.charts.drawn import WIDTH, Image, drawn
from harquel.core.answers.exports import File
from harquel.core.domain.inquiry import Inquiry
from harquel.service.errors import ProblemError

_DRAWING: Final = threading.BoundedSemaphore(2)
_NARROW: Final = 330
_PATIENCE_S: Final = 5


def image_of(specification: dict[str, Any], image: Image) -> bytes:
    """An image. Raises ProblemError where too many are being drawn."""
    if not _DRAWING.acquire(timeout=_PATIENCE_S):
        raise ProblemError(429, "too-busy", "problem-pictures-busy", {"Retry-After": str(_PATIENCE_S)})
    try:
        return drawn(specification, image)
    finally:
        _DRAWING.release()


def picture_of(inquiry: Inquiry, wish: ShownPicture, name: str) -> File:
    """What is drawn of an answer, as SVG, for a page. Raises ProblemError."""
    if inquiry.answer is None:
        raise ProblemError(409, "no-answer", "problem-no-answer")
    width = _NARROW if wish.narrow == "1" else WIDTH
    found = redrawn(inquiry.answer, wish, inquiry.language, wish.dark == "1", width)
    if found.spec is None:
        raise ProblemError(409, "no-picture", "problem-no-picture", note=found.note)
    return File(f"{name}.svg", "image/svg+xml", image_of(found.spec, "svg"))


def chart_of(inquiry: Inquiry, image: Image, wish: DrawWish | None = None) -> bytes:
    """The chart of an answer as it was chosen, or wished; empty where none was chosen. Raises ProblemError."""
    answer = inquiry.answer
    if answer is None or answer.chart is None:
        return b""
    found = redrawn(answer, wish or DrawWish(), inquiry.language, width=WIDTH)
    return image_of(found.spec, image) if found.spec is not None else b""
