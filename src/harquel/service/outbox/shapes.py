"""Sendings as they are told."""

from __future__ import annotations

import json
from typing import Any

from harquel.contract import Inquiry, Sending
from harquel.core.answers.exports import exported

from .models import StoredSending


def sending_shape(stored: StoredSending) -> Sending:
    """One, without what is in it."""
    return Sending(
        id=stored.key, inquiry=stored.inquiry or None, casebook=stored.casebook or None,
        destination=stored.destination, state=stored.state, tries=stored.tries,
        asked_by=stored.person.name, at=stored.at, next_at=stored.next_at if stored.state == "waiting" else None,
        ended_at=stored.ended_at, said=stored.said,
    )  # fmt: skip


def message(
    key: str, inquiry: Inquiry, base: str, at: str, watch: dict[str, str] | None = None, with_answer: bool = True
) -> bytes:  # fmt: skip
    """An answer as a CloudEvent (1.0, structured JSON): its data are those of the answer as a JSON file, its source
    leads to where people see it whole, once they have signed in. Of a watched question, what is said of it, and the
    answer only where it is told.
    """
    data: dict[str, Any] = json.loads(exported(inquiry, "json").content) if with_answer else {"inquiry": inquiry.id}
    data |= {"watch": watch} if watch is not None else {}
    event = {
        "specversion": "1.0", "id": key, "source": f"{base}/inquiries/{inquiry.id}",
        "type": "harquel.answer.sent" if watch is None else "harquel.watch.told",
        "subject": inquiry.id, "time": at, "datacontenttype": "application/json", "data": data,
    }  # fmt: skip
    return json.dumps(event, ensure_ascii=False).encode()
