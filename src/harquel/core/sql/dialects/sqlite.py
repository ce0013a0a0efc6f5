"""SQLite's."""

from __future__ import annotations

from sqlglot import exp
from sqlglot.dialects.sqlite import SQLite

from .dialect import SqlDialect


def _affinity(node: exp.Expr) -> exp.Expr:
    """A type is its affinity, whatever the width; for decimals the library would write REAL."""
    if node.this == exp.DataType.Type.DECIMAL:
        return exp.DataType(this=exp.DataType.Type.USERDEFINED, kind="NUMERIC")
    if node.this in exp.DataType.TEXT_TYPES:
        return exp.DataType(this=exp.DataType.Type.TEXT)
    return node


class SqliteDialect(SqlDialect):
    """SQLite's."""

    name, library = "sqlite", SQLite
    changes = {exp.DataType: _affinity}
    booleans_are_whole = True
    # Whole: a difference of julian days is a hair beside what was meant, and fifteen minutes were more than fifteen.
    seconds = "CAST(STRFTIME('%s', later) AS INTEGER) - CAST(STRFTIME('%s', earlier) AS INTEGER)"
    parts = {
        "weekday": "CAST(STRFTIME('%w', at) AS INTEGER)", "hour": "CAST(STRFTIME('%H', at) AS INTEGER)",
        "clock": "STRFTIME('%H:%M', at)", "day": "DATE(at)", "week": "DATE(at, '-6 days', 'weekday 1')",
        "quarter": "STRFTIME('%Y', at) || '-Q' || ((CAST(STRFTIME('%m', at) AS INTEGER) + 2) / 3)",
        "fiscal year": "STRFTIME('%Y', at) || '/' || SUBSTR(STRFTIME('%Y', at) + 1, 3, 2)",
        "fiscal quarter": "STRFTIME('%Y', at) || '/' || SUBSTR(STRFTIME('%Y', at) + 1, 3, 2) || '-Q' || "
        "((CAST(STRFTIME('%m', at) AS INTEGER) + 2) / 3)",
    }  # fmt: skip
    earlier = "DATE(at, 'start of month', '-{months} months')"
    views_for_one = True

    def week_from(self, first: int) -> str:
        """See SqlDialect."""
        return f"DATE(at, '-6 days', 'weekday {(first + 1) % 7}')"
