"""Looks at what came back: nothing, only nulls, or less than there was."""

from __future__ import annotations

from harquel.contract import Finding
from harquel.core.domain.result import Result


def review_result(result: Result) -> list[Finding]:
    """Findings on a result, mildest last."""
    findings = []
    if result.cut_by is not None:
        what = "number of rows" if result.cut_by == "rows" else "size"
        findings.append(
            Finding(
                rule="result-cut",
                severity="warning",
                message=f"The result was cut at the allowed {what}: these are the first {len(result.rows):,} rows.",
                hint="Ask for a total, a narrower period or the top few.",
            )
        )
    if not result.rows:
        findings.append(
            Finding(
                rule="result-empty",
                severity="warning",
                message="Nothing in the data meets all conditions; it may be so, or a condition may be wrong.",
                hint="Compare the conditions in the SQL with what you meant.",
            )
        )
    elif all(value is None for row in result.rows for value in row):
        findings.append(
            Finding(
                rule="result-all-null",
                severity="warning",
                message="The figure is empty: no row went into it.",
                hint="Check that the period and the names in the question are in the data.",
            )
        )
    return findings
