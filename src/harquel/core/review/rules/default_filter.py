"""Rows that by the notes do not count are left out, unless the question asks for them.

Bad:  SELECT COUNT(*) FROM customer
Good: SELECT COUNT(*) FROM customer WHERE deleted_at IS NULL
"""

from __future__ import annotations

from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.known import conditions_in
from harquel.core.review.rules.rule import rule

CODE = "default-filter"


@rule(CODE)
def default_filter(context: ReviewContext) -> list[Finding]:
    """One finding for each table whose default filter is missing."""
    found = []
    for name, about in context.notes.tables.items():
        if not about.default_filter or not _counts(context, name):
            continue
        wanted = conditions_in(
            f"SELECT 1 FROM {name} WHERE {about.default_filter}", context.engine, context.catalog, context.notes
        )
        # Where one of its conditions stands as it is written, the others may stand in another form.
        missing = {k for k in wanted if not wanted & context.said or k[:2] not in {s[:2] for s in context.said}}
        asked = {m.column for mention in context.question.mentions for m in mention.meanings
                 if m.table == name and m.kind in ("column", "code", "null")}  # fmt: skip
        if not {column for _, column, _, _ in missing} - asked:
            continue
        message = f"Rows of {name} count only where {about.default_filter}; the query does not ask for that."
        found.append(context.finding(CODE, "error", message, f"Add {about.default_filter}."))
    return found


def _counts(context: ReviewContext, name: str) -> bool:
    """Whether its rows matter: it is asked about, or read for more than a measure needs."""
    asked = any(
        m.kind == "table" and m.table == name for mention in context.question.mentions for m in mention.meanings
    )
    reads = context.statement.names.reads
    pointed = any(
        key.table == name and any((t, c) in context.statement.read for c in key.columns)
        for t in reads if (table := context.catalog.table(t)) is not None for key in table.foreign_keys
    )  # fmt: skip
    counted = context.question.counted
    agreed = {k[0] for _, m in context.measures_asked() for k in context.measure_conditions(m)}
    if (
        name in reads
        and name in agreed
        and not (counted is not None and any(m.table == name for m in counted.meanings))
    ):
        return False  # an agreed figure says itself which rows of it count
    if asked and (name in reads or pointed):
        return True
    if name not in reads:
        return False
    measured = {k[1] for _, m in context.measures_asked() for k in context.measure_conditions(m) if k[0] == name}
    keys = {c.name for t in context.catalog.tables if t.name == name for c in t.columns if c.primary_key}
    if not measured:
        granted = {k[1] for m in context.notes.measures.values() for k in context.measure_conditions(m) if k[0] == name}
        measured = granted if granted & reads[name] else set()
    return not (measured and reads[name] <= measured | keys)
