"""A policy, before it counts."""

from __future__ import annotations

from harquel.contract import CheckedPolicy, CheckPolicyRequest
from harquel.core.curation import read_document
from harquel.core.domain.policy import Policy
from harquel.core.guard.explain import check_policy, remark_on
from harquel.service.operations import Call, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from .explain_policy import policy_sentences


@operation("policy.check", takes=CheckPolicyRequest, gives=CheckedPolicy, scope="steward", about=SOURCE_EVEN_OFF)
def check(call: Call[CheckPolicyRequest, LiveSource]) -> CheckedPolicy:
    """What in it matches nothing or cannot be applied."""
    source = call.about
    policy = source.core.policy if call.asked.text is None else read_document(call.asked.text, Policy, "the policy")
    whole = source.keeper.current()
    return CheckedPolicy(
        source=source.name,
        faults=policy_sentences(check_policy(policy, whole)),
        remarks=policy_sentences(remark_on(policy, whole)),
    )
