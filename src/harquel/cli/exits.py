"""Exit codes, by name."""

from __future__ import annotations

from typing import Final

from harquel.contract import Inquiry

ANSWERED: Final = 0
USAGE: Final = 2
FAILED: Final = 7
UNREACHABLE: Final = 9
CAUTION: Final = 10
INTERRUPTED: Final = 130

BY_OUTCOME: Final = {
    "answered": ANSWERED, "clarify": 3, "held": 4, "refused": 5, "unanswerable": 6, "failed": 7, "cancelled": 8,
}  # fmt: skip
BY_VERDICT: Final = {"run": 0, "hold": 4, "refuse": 5}


def of(inquiry: Inquiry) -> int:
    """That of how an inquiry ended, or of its waiting."""
    reached = "held" if inquiry.state == "held" else str(inquiry.outcome)
    return BY_OUTCOME.get(reached, FAILED)
