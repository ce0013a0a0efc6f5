"""An answer to be taken away: its rows with the grounds they stand on, in a form that other programs open."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Final

from harquel.contract import Form, Inquiry

from . import aligned
from .delimited import as_csv
from .document import as_json
from .file import File, Pieces
from .grounds import grounds, mark
from .markdown import as_markdown, plain, table_lines
from .page import as_html, for_strangers
from .paper import paper, picture_in, sheet
from .whole import WholeForm, as_pieces
from .workbook import as_xlsx

__all__ = [
    "File", "Pieces", "WholeForm", "aligned", "as_pieces", "exported", "for_strangers", "grounds", "mark", "paper",
    "picture_in", "plain", "sheet", "table_lines",
]  # fmt: skip


def _as_jsonl(inquiry: Inquiry) -> bytes:
    assert inquiry.answer is not None
    table = inquiry.answer.table
    lines = (json.dumps(row).encode() + b"\n" for row in table.rows)
    return b"".join(as_pieces("", "jsonl", table.columns, lines).pieces)


_FORMS: Final[dict[str, tuple[str, Callable[[Inquiry], bytes]]]] = {
    "csv": ("text/csv; charset=utf-8", as_csv),
    "jsonl": ("application/jsonl", _as_jsonl),
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
