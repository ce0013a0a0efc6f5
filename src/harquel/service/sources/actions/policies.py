"""Explains and checks policies; neither changes anything."""

from __future__ import annotations

from harquel.contract import CheckedPolicy, CheckPolicyRequest, ExplainedPolicy, ExplainRequest, PolicySentence
from harquel.core.curation import read_document
from harquel.core.domain.policy import Policy
from harquel.core.domain.terms import Terms
from harquel.core.guard.explain import Sentence, check_policy, explain_policy, remark_on
from harquel.core.reviewing import review_sql
from harquel.service.access.models import Token, asker

from .find import source_for


def explain(name: str, request: ExplainRequest, token: Token) -> ExplainedPolicy:
    """For anybody with these roles and values. Raises ProblemError, SourceError, SandboxError."""
    source = source_for(name, token)
    person = asker(request.person or "somebody", request.roles, request.values)
    whole = source.keeper.current()
    made = ExplainedPolicy(source=name, sentences=_shapes(explain_policy(Terms(source.core.policy, person), whole)))
    if request.sql is not None:
        found = review_sql(request.sql, source.core, person)
        made.verdict, made.rulings, made.findings = found.verdict, found.rulings, found.findings
        made.rewritten_sql = found.rewritten_sql
        made.instead = " ".join(dict.fromkeys(f.hint for f in found.findings if f.hint))
    return made


def check(name: str, request: CheckPolicyRequest, token: Token) -> CheckedPolicy:
    """Against the catalog. Raises ProblemError, or ConfigurationError for a text that is no policy."""
    source = source_for(name, token, disabled_too=True)
    policy = source.core.policy if request.text is None else read_document(request.text, Policy, "the policy")
    whole = source.keeper.current()
    return CheckedPolicy(
        source=name, faults=_shapes(check_policy(policy, whole)), remarks=_shapes(remark_on(policy, whole))
    )


def _shapes(sentences: list[Sentence]) -> list[PolicySentence]:
    return [PolicySentence(line=s.line, text=s.text) for s in sentences]
