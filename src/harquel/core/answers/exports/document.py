"""JSON: rows and grounds in one document, values as they stand in the contract."""

from __future__ import annotations

import json

from harquel.contract import Inquiry

from .grounds import grounds


def as_json(inquiry: Inquiry) -> bytes:
    """The document."""
    answer = inquiry.answer
    assert answer is not None
    made = {
        "question": inquiry.standalone_question or inquiry.question, "answer": answer.text, "trust": inquiry.trust,
        "caveats": [caveat.message for caveat in answer.caveats], "source": inquiry.source,
        "as_of": inquiry.as_of.isoformat() if inquiry.as_of is not None else None, "inquiry": inquiry.id,
        "sql": answer.sql,
        "grounds": [{"label": one.label, "text": one.text} for one in grounds(inquiry, answer)],
        "columns": [column.model_dump(mode="json") for column in answer.table.columns], "rows": answer.table.rows,
        "cut_by": answer.table.cut_by,
    }  # fmt: skip
    return json.dumps(made, ensure_ascii=False, indent=1).encode("utf-8", "replace")
