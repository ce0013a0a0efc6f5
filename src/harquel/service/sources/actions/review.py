"""Guards and reviews a statement without running it; who asked goes into the ledger."""

from __future__ import annotations

from harquel.contract import ReviewRequest, ReviewShape
from harquel.core.reviewing import review_sql
from harquel.service.access.models import Token
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime

from .find import source_for


def review(name: str, request: ReviewRequest, token: Token) -> ReviewShape:
    """Raises ProblemError, SourceError or SandboxError."""
    source = source_for(name, token)
    shape = review_sql(request.sql, source.core, token.asker, request.question, source.now(None))
    facts = {"source": name, "verdict": shape.verdict, "policy_line": shape.rulings[-1].policy_line}
    runtime().writer.do(
        lambda: append(who=token.person.name, kind="reviewed", facts=facts, texts={"draft": request.sql})
    )
    return shape
