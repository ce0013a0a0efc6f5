"""What guard and review say: findings and rulings. A policy may switch each code of review off or down."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

Verdict = Literal["run", "hold", "refuse"]
Severity = Literal["info", "warning", "error"]

STRUCTURAL: Final = frozenset(
    (
        "bare-column clock code-by-meaning counts-empty integer-division last-day-lost left-join-undone "
        "multiplied not-in-nullable null-compared off-key result-all-null result-constant result-cut "
        "result-empty result-negative result-outside result-repeats result-single result-ties "
        "second-differs total-differs two-readings types-differ unit unjoined unknown-value wrong-case"
    ).split()
)
"""Seen in the statement, the catalog and the data, whatever was asked: they always count."""
COVERAGE: Final = frozenset(
    (
        "another-key average-of-averages bound comparison-turned counted-often counts-nothing default-filter direction "
        "distinct-drops distinct-missing either-for-both left-out limit-without-order measure-bent negation "
        "no-share not-grouped not-known not-ranked not-read not-reviewed null-as-zero nulls-lost "
        "number-left-out one-key-of-several other-time outstanding period period-left-out period-unasked "
        "periods-unequal rate-added-up result-unnamed similar-table turned-between-columns unasked unasked-limit "
        "unlike-example weekday wrong-figure wrong-limit wrong-order wrong-whole"
    ).split()
)
"""A part of the question without trace in the statement, one without a reason, or what may have been meant so: they
count as long as no second way to the same rows says otherwise."""
OF_ORDER: Final = frozenset({"limit-without-order", "not-ranked", "wrong-order"})
"""Of those, what is said about the order of rows."""
OF_FORM: Final = frozenset({"comparison-turned", "direction", "either-for-both", "negation", "turned-between-columns"})
"""What is said about words of the language itself (not, both, before, more than), which mean the same in every place:
where two ways share it, both may have overlooked the same word."""
REVIEW_CODES: Final = STRUCTURAL | COVERAGE


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
