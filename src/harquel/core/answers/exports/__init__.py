"""An answer to be taken away: its rows with the grounds they stand on, in a form that other programs open."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from harquel.contract import Form, Inquiry

from .delimited import as_csv
from .document import as_json
from .file import File
from .markdown import as_markdown
from .page import as_html
from .workbook import as_xlsx

__all__ = ["File", "exported"]

_FORMS: Final[dict[str, tuple[str, Callable[[Inquiry], bytes]]]] = {
    "csv": ("text/csv; charset=utf-8", as_csv),
    "json": ("application/json", as_json),
    "xlsx": ("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", as_xlsx),
    "md": ("text/markdown; charset=utf-8", as_markdown),
    "html": ("text/html; charset=utf-8", as_html),
}


def exported(inquiry: Inquiry, form: Form, picture: bytes = b"") -> File:
    """An answered inquiry as a file; a page holds its picture, which is SVG. Raises ValueError for one without an
    answer, KeyError for a form that is a picture itself.
    """
    if inquiry.answer is None:
        raise ValueError("there is no answer")
    media_type, make = _FORMS[form]
    content = as_html(inquiry, picture) if form == "html" else make(inquiry)
    return File(f"{inquiry.source}-{inquiry.id}.{form}", media_type, content)
