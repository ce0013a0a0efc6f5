"""Charts as images, while no more than a few are being drawn: a large one takes a processor for seconds."""

from __future__ import annotations

import threading
from typing import Any, Final

from harquel.contract import DrawWish
from harquel.core.answers.charts import redrawn
from harquel.core.answers.charts.drawn import WIDTH, Image, drawn
from harquel.core.domain.inquiry import Inquiry
from harquel.service.errors import ProblemError

_DRAWING: Final = threading.BoundedSemaphore(2)
_PATIENCE_S: Final = 5


def image_of(specification: dict[str, Any], image: Image) -> bytes:
    """An image. Raises ProblemError where too many are being drawn."""
    if not _DRAWING.acquire(timeout=_PATIENCE_S):
        raise ProblemError(429, "too-busy", "problem-pictures-busy", {"Retry-After": str(_PATIENCE_S)})
    try:
        return drawn(specification, image)
    finally:
        _DRAWING.release()


def chart_of(inquiry: Inquiry, image: Image, wish: DrawWish | None = None) -> bytes:
    """The chart of an answer as it was chosen, or wished; empty where none was chosen. Raises ProblemError."""
    answer = inquiry.answer
    if answer is None or answer.chart is None:
        return b""
    found = redrawn(answer, wish or DrawWish(), inquiry.language, width=WIDTH)
    return image_of(found.spec, image) if found.spec is not None else b""
