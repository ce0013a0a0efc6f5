"""Ends an inquiry that waits for somebody."""

from __future__ import annotations

from dataclasses import replace

from harquel.core.domain.inquiry import Inquiry
from harquel.service.errors import note_of

from .recording import store_end


def end_held(inquiry: Inquiry, line: str, kind: str, message: str, hint: str = "", **values: str) -> None:
    """Ends an inquiry that waits, by a message and its hint, or another hint. Runs inside the writer."""
    inquiry.state, inquiry.outcome = "ended", "cancelled" if kind == "cancelled" else "refused"
    note = note_of(kind, message, inquiry.language, **values)
    inquiry.problem = replace(note, hint=hint or note.hint, policy_line=line)
    store_end(inquiry)
