"""Checks the connection of a source, and writes the script for a better account."""

from __future__ import annotations

from dataclasses import asdict

from harquel.contract import AccountRequest, AccountScript, CheckShape, CheckStepShape
from harquel.service.access.models import Token
from harquel.service.ledger.append import append
from harquel.service.runtime import runtime

from .find import source_for


def check(name: str, token: Token) -> CheckShape:
    """All steps, up to the first that failed. Raises ProblemError."""
    source = source_for(name, token, disabled_too=True)
    steps = list(source.engine.check(source.core.policy))
    verdicts = {s.verdict for s in steps}
    verdict = "failed" if "failed" in verdicts else "warning" if "warning" in verdicts else "well"
    facts = {"source": name, "verdict": verdict, "faults": [s.fault for s in steps if s.fault]}
    runtime().writer.do(lambda: append(who=token.person.name, kind="source-checked", facts=facts))
    return CheckShape(
        source=name, where=source.engine.where(), verdict=verdict,  # type: ignore[arg-type]
        steps=[CheckStepShape(**asdict(s)) for s in steps],
    )  # fmt: skip


def account_script(name: str, request: AccountRequest, token: Token) -> AccountScript:
    """SQL for an administrator; nothing is run. Raises ProblemError."""
    source = source_for(name, token, disabled_too=True)
    script = source.engine.account_script(
        source.core.policy, request.account, request.whole_schema, source.keeper.known()
    )
    return AccountScript(engine=source.engine.name, script=script)
