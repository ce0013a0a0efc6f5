"""Exit codes, by name."""

from __future__ import annotations

from typing import Final

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
