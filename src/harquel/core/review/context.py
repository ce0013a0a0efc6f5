"""What a rule of review is given: the statement as read, and what is known of the source."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.findings import Finding, Severity
from harquel.core.domain.notes import ColumnNotes, Notes
from harquel.core.domain.policy import Policy
from harquel.core.review.grain import Grain
from harquel.core.review.known import Known, known_of
from harquel.core.review.statement import Level, Statement
from harquel.core.sql.tree import place

Holds = Callable[[Table, Column, str], bool | None]
"""Whether a column holds a text; None where nobody looked."""


@dataclass
class ReviewContext:
    """One draft. `now` is the instant that its question is about."""

    statement: Statement
    notes: Notes
    policy: Policy
    now: dt.datetime
    holds: Holds = lambda table, column, value: None
    grains: dict[int, Grain] = field(default_factory=dict)

    @property
    def catalog(self) -> Catalog:
        """What may be seen."""
        return self.statement.catalog

    @property
    def engine(self) -> str:
        """Whose SQL it is."""
        return self.catalog.engine

    def about(self, table: str, column: str) -> ColumnNotes:
        """The notes on a column."""
        return self.notes.of(table).columns.get(column) or ColumnNotes()

    def grain(self, level: Level) -> Grain:
        """How the rows of a query come about."""
        return self.grains.setdefault(id(level), Grain(level, self.statement))

    @cached_property
    def said(self) -> frozenset[Known]:
        """Every condition on a column, by what it says."""
        return frozenset(k for c in self.statement.conditions for k in known_of(c))

    def finding(self, rule: str, severity: Severity, message: str, hint: str, node: exp.Expr | None = None) -> Finding:
        """A finding with its place in the draft."""
        start, end = place(node) if node is not None else (None, None)
        return Finding(rule=rule, severity=severity, message=message, hint=hint, start=start, end=end)
