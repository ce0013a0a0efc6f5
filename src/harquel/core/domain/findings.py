"""What guard and review say: findings and rulings. A policy may switch each code of review off or down."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

Verdict = Literal["run", "hold", "refuse"]
Severity = Literal["info", "warning", "error"]

REVIEW_CODES: Final = frozenset(
    (
        "another-key average-of-averages bare-column bound clock code-by-meaning comparison-turned counts-empty "
        "counts-nothing default-filter direction distinct-drops distinct-missing either-for-both integer-division "
        "last-day-lost left-join-undone left-out limit-without-order measure-bent multiplied negation no-share "
        "not-grouped not-in-nullable not-known not-ranked not-read not-reviewed null-as-zero null-compared nulls-lost "
        "number-left-out off-key one-key-of-several other-time outstanding "
        "period period-left-out period-unasked periods-unequal "
        "rate-added-up result-all-null result-constant result-cut result-empty result-negative result-outside "
        "result-repeats result-single result-ties result-unnamed second-differs similar-table total-differs "
        "turned-between-columns two-readings types-differ unasked unasked-limit unit unjoined unknown-value "
        "unlike-example weekday wrong-case wrong-figure wrong-limit wrong-order wrong-whole "
    ).split()
)


@dataclass(frozen=True, kw_only=True)
class Finding:
    """One observation on a draft or a result; start and end are code points of the draft."""

    rule: str
    """The rule that found it, by a stable name."""
    severity: Severity
    """How much it weighs: an error is sent back, a warning is a caveat, an info is told."""
    message: str
    """What was found."""
    hint: str = ""
    """What would be right."""
    start: int | None = None
    """Where in the draft it begins, in code points; null: nowhere in particular."""
    end: int | None = None
    """Where it ends."""


@dataclass(frozen=True, kw_only=True)
class Ruling:
    """What the guard decided on the text or on the plan, and the policy line that decided."""

    on: Literal["text", "plan"]
    """What was ruled on."""
    verdict: Verdict
    """Whether it may run."""
    policy_line: str
    """The line of the policy that decided."""
    reason: str
    """Why, in a sentence."""
