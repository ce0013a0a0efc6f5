"""What guard and review say: findings and rulings. A policy may switch each code of review off or down."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final, Literal

Verdict = Literal["run", "hold", "refuse"]
Severity = Literal["info", "warning", "error"]

STRUCTURAL: Final = frozenset(
    (
        "bare-column clock code-by-meaning counts-empty integer-division left-join-undone multiplied not-in-nullable "
        "null-compared off-key result-all-null result-cut result-empty result-negative result-outside result-repeats "
        "result-ties said-left-out second-differs total-differs two-readings types-differ unconfirmed unit unjoined "
        "unknown-value wrong-case"
    ).split()
)
"""Wrong or doubtful whatever was asked: they always count."""
COVERAGE: Final = frozenset(
    (
        "average-of-averages counts-nothing distinct-drops last-day-lost not-reviewed null-as-zero nulls-lost "
        "rate-added-up result-constant result-unnamed wrong-whole"
    ).split()
)
"""What may have been meant so: they count as long as no second way to the same rows says otherwise."""
REPEATED: Final = frozenset({"multiplied"})
"""What a control cannot have in it, which repeats no row: it counts no longer where one comes to the same rows."""
TOLD: Final = frozenset({"result-ties"})
"""True of an answer that is right: it is told beside it, and doubts it only where no second way comes to the same."""
RETIRED: Final = frozenset(
    (
        "another-key bound comparison-turned counted-often default-filter direction distinct-missing either-for-both "
        "left-out limit-without-order measure-bent negation no-share not-grouped not-known not-ranked not-read "
        "number-left-out one-key-of-several other-time outstanding period period-left-out period-unasked "
        "periods-unequal result-single similar-table turned-between-columns unasked unasked-limit unlike-example "
        "weekday wrong-figure wrong-limit wrong-order"
    ).split()
)
"""What review found in the words of a question; no longer made (decision 28). A policy may still name them."""
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
