"""One measured figure."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """`value` and `baseline` in `unit`; the baseline may be a bound that is not measured."""

    name: str
    value: float
    unit: str
    baseline: float | None = None
    baseline_name: str = ""

    def shown(self) -> str:
        """The value with its unit."""
        return f"{self.value:,.2f} {self.unit}"

    def shown_baseline(self) -> str:
        """The baseline with its name."""
        return f"{self.baseline:,.2f} {self.unit} ({self.baseline_name})" if self.baseline is not None else ""

    def ratio(self) -> str:
        """Value over baseline."""
        return f"{self.value / self.baseline:.2f}" if self.baseline else ""


def median_ms(work: Callable[[], object], times: int = 200) -> float:
    """Median of single runs in milliseconds, after a few to warm up."""
    for _ in range(5):
        work()
    taken = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        taken.append((time.perf_counter() - started) * 1000)
    return statistics.median(taken)
