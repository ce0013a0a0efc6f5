"""What a rule is given, and what it gives back."""

from __future__ import annotations

from dataclasses import dataclass

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.findings import Finding
from harquel.core.domain.policy import Policy
from harquel.core.domain.terms import Terms
from harquel.core.sql.names import Resolution


@dataclass(frozen=True)
class GuardContext:
    """One parsed statement with its names resolved against what the person may see."""

    tree: exp.Expr
    engine: str
    catalog: Catalog
    terms: Terms
    names: Resolution

    @property
    def policy(self) -> Policy:
        """Of the source."""
        return self.terms.policy


@dataclass(frozen=True)
class Objection:
    """A reason to refuse: the finding for the model, and the policy line that decided."""

    finding: Finding
    policy_line: str


def object_to(
    rule: str, message: str, hint: str, policy_line: str, at: tuple[int | None, int | None] = (None, None)
) -> Objection:
    """An objection with its place in the draft."""
    finding = Finding(rule=rule, severity="error", message=message, hint=hint, start=at[0], end=at[1])
    return Objection(finding, policy_line)
