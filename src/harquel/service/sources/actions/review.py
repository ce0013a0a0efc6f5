"""Guards and reviews a statement without running it; who asked goes into the ledger."""

from __future__ import annotations

from harquel.contract import ReviewRequest, ReviewShape
from harquel.core.inquiry import review_sql
from harquel.service.access.models import Token
from harquel.service.inquiries.actions.ask import choose_source
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime


def review(name: str, request: ReviewRequest, token: Token) -> ReviewShape:
    """Raises ProblemError, SourceError or SandboxError."""
    source = choose_source(name, token)
    shape = review_sql(request.sql, source.core)
    facts = {"source": name, "verdict": shape.verdict, "policy_line": shape.rulings[-1].policy_line}
    runtime().writer.do(
        lambda: append(who=token.person.name, kind="reviewed", facts=facts, texts={"draft": request.sql})
    )
    return shape
