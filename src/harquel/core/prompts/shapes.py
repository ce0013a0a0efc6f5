"""What the reply of each duty looks like, as a JSON Schema, for models that can be told: one object, any of its keys.

Loose on purpose: what a reply may say is decided where it is read, and a part that is new there need not be here.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

_TEXT: Final = {"type": "string"}
_TEXTS: Final = {"type": "array", "items": _TEXT}
_PARTS: Final = {"type": "array", "items": {"type": "object"}}


def _object(**parts: Any) -> Mapping[str, Any]:
    return {"type": "object", "properties": parts}


DRAFT: Final = _object(
    sql=_TEXT, explanation=_TEXT, need=_TEXTS, ask=_TEXT, readings=_TEXTS,
    cannot={"type": "string", "enum": ["not-in-data", "not-allowed"]}, why=_TEXT,
)  # fmt: skip
"""See templates/draft.jinja."""
READING: Final = _object(
    rows=_TEXT, figures=_PARTS, show={"type": "array"}, only=_PARTS, during=_PARTS, per=_PARTS, keep=_PARTS,
    order=_PARTS, others=_PARTS, across={"type": "object"}, each={"type": "object"}, top={"type": "integer"},
    distinct={"type": "boolean"}, empty={"type": "boolean"}, both={"type": "boolean"}, tally={"type": "boolean"},
    open=_TEXTS, idle=_TEXTS, words=_TEXT, named=_TEXT,
)  # fmt: skip
"""See templates/read.jinja."""
WORDING: Final = _object(says=_TEXT)
"""See templates/word.jinja."""
FOLLOWED: Final = _object(
    question=_TEXT, alone={"type": "boolean"}, nothing={"type": "boolean"}, ask=_TEXT, readings=_TEXTS
)  # fmt: skip
"""See templates/follow.jinja."""
