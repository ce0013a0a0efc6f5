"""Ends an inquiry that waits for somebody."""

from __future__ import annotations

from harquel.core.domain.inquiry import Inquiry, ProblemNote

from .recording import store_end


def end_held(inquiry: Inquiry, line: str, kind: str, title: str, hint: str) -> None:
    """Ends an inquiry that waits. Runs inside the writer."""
    inquiry.state, inquiry.outcome = "ended", "cancelled" if kind == "cancelled" else "refused"
    inquiry.problem = ProblemNote(type=kind, title=title, hint=hint, policy_line=line)
    store_end(inquiry)
