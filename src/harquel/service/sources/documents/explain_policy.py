"""A policy in plain words."""

from __future__ import annotations

from harquel.contract import ExplainedPolicy, ExplainRequest, PolicySentence, ReviewShape
from harquel.core.domain.terms import Terms
from harquel.core.guard.explain import Sentence, explain_policy
from harquel.service.access.models import asker
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE
from ..live import LiveSource


@operation("policy.explain", takes=ExplainRequest, gives=ExplainedPolicy, scope="steward", about=SOURCE)
def explain(call: Call[ExplainRequest, LiveSource]) -> ExplainedPolicy:
    """What it comes to for somebody with these roles and values, and what it says of a statement."""
    source, request = call.about, call.asked
    person = asker(request.person or "somebody", request.roles, request.values)
    whole = source.keeper.current()
    made = ExplainedPolicy(
        source=source.name, sentences=policy_sentences(explain_policy(Terms(source.core.policy, person), whole))
    )
    if request.sql is not None:
        reviewed = runtime().conductors.review(request.sql, source.core, source.now(None), person)
        found = ReviewShape.model_validate(reviewed, from_attributes=True)
        made.verdict, made.rulings, made.findings = found.verdict, found.rulings, found.findings
        made.rewritten_sql = found.rewritten_sql
        made.instead = " ".join(dict.fromkeys(f.hint for f in found.findings if f.hint))
    return made


def policy_sentences(sentences: list[Sentence]) -> list[PolicySentence]:
    """As the contract has them."""
    return [PolicySentence(line=s.line, text=s.text) for s in sentences]
