"""The codes that rules of review give their findings; a policy may switch each of them off or down."""

from __future__ import annotations

from typing import Final

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
