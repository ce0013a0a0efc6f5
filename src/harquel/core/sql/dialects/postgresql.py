"""PostgreSQL's."""

from __future__ import annotations

from sqlglot import exp
from sqlglot.dialects.postgres import Postgres

from .dialect import SqlDialect
from .reading import KNOWN


class PostgresqlDialect(SqlDialect):
    """PostgreSQL's."""

    name, library = "postgresql", Postgres
    shaped = KNOWN | frozenset(
        "EXTRACT OVERLAY POSITION STRING_AGG SUBSTRING TRIM PERCENTILE_CONT PERCENTILE_DISC MODE".split()
    )
    seconds = "EXTRACT(EPOCH FROM (CAST(later AS TIMESTAMP) - CAST(earlier AS TIMESTAMP)))"
    parts = {
        "weekday": "EXTRACT(DOW FROM at)", "hour": "EXTRACT(HOUR FROM at)", "day": "CAST(at AS DATE)",
        "clock": "TO_CHAR(at, 'HH24:MI')", "week": "CAST(DATE_TRUNC('WEEK', at) AS DATE)",
        "quarter": "CONCAT(EXTRACT(YEAR FROM at), '-Q', EXTRACT(QUARTER FROM at))",
        "fiscal year": "CONCAT(TO_CHAR(at, 'YYYY'), '/', TO_CHAR(at + INTERVAL '1 year', 'YY'))",
        "fiscal quarter": "CONCAT(TO_CHAR(at, 'YYYY'), '/', TO_CHAR(at + INTERVAL '1 year', 'YY'), '-Q', "
        "EXTRACT(QUARTER FROM at))",
    }  # fmt: skip
    earlier = "(DATE_TRUNC('month', at) - INTERVAL '{months} months')"
    spells_schemas = lists = typed_nulls = True

    def week_from(self, first: int) -> str:
        """See SqlDialect."""
        return f"CAST(DATE_TRUNC('WEEK', at + INTERVAL '{7 - first} days') AS DATE) - {7 - first}"

    def wall(self, select: exp.Select) -> None:
        """See SqlDialect: here by an offset of none."""
        select.set("offset", exp.Offset(expression=exp.Literal.number(0)))
