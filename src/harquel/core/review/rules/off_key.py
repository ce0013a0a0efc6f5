"""Tables are joined along a key of the database or a join that a steward declared.

Bad:  SELECT COUNT(*) FROM incident i JOIN sailing s ON s.id = i.id
Good: SELECT COUNT(*) FROM incident i JOIN sailing s ON s.id = i.sailing_id
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.calendar import is_temporal
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import Level, Ref

CODE = "off-key"


@rule(CODE, "types-differ")
def off_key(context: ReviewContext) -> list[Finding]:
    """One finding for each equality of columns of two tables that no key backs."""
    found = []
    for level in context.statement.levels:
        for condition in level.conditions:
            if condition.op not in ("=", "in") or not condition.bare:
                continue
            left, right = _end(context, condition.subject, level), _end(context, condition.other, level)
            if left is None or right is None or left.key == right.key:
                continue
            if left.column.kind != right.column.kind and "other" not in (left.column.kind, right.column.kind):
                message = said_as(
                    "caveat-types-differ",
                    left=str(left),
                    one=left.column.kind,
                    right=str(right),
                    other=right.column.kind,
                )
                found.append(
                    context.finding("types-differ", "warning", message, _keys(context, left, right), condition.node)
                )
            elif not _backed(context.catalog, left, right) and (_is_key(left) or _is_key(right)):
                message = said_as("caveat-off-key", left=str(left), right=str(right))
                found.append(context.finding(CODE, "error", message, _keys(context, left, right), condition.node))
    return found


def _end(context: ReviewContext, node: exp.Expr | None, level: Level) -> Ref | None:
    """The column of a table behind a side, through subqueries."""
    if isinstance(node, exp.Query | exp.Subquery):
        inner = next((lv for lv in context.statement.levels if lv.select is node.find(exp.Select)), None)
        if inner is None or len(inner.select.expressions) != 1:
            return None
        node, level = inner.select.expressions[0].unalias(), inner
    if not isinstance(node, exp.Column):
        return None
    source, _ = context.statement.origin(node, level)
    return context.statement.ref(source)


def _is_key(ref: Ref) -> bool:
    return (
        ref.column.primary_key
        or any(ref.column.name in k.columns for k in ref.table.foreign_keys)
        or not (is_temporal(ref.column) or ref.column.kind == "text")
    )


def _targets(catalog: Catalog, table: Table, column: str) -> set[tuple[str, str]]:
    """What a column of a table stands for: itself, and the column that a key of it points at.

    A view has no keys of its own: a column of it stands for whatever bears its name in a table.
    """
    found = {(table.name, column)}
    if table.kind != "table":
        for other in catalog.tables:
            same = other.column(column) if other.kind == "table" else None
            if same is not None:
                found |= _targets(catalog, other, same.name)
    for key in table.foreign_keys:
        if column in key.columns:
            found.add((key.table, key.references[key.columns.index(column)]))
    return found


def _backed(catalog: Catalog, left: Ref, right: Ref) -> bool:
    return bool(_targets(catalog, left.table, left.column.name) & _targets(catalog, right.table, right.column.name))


def _keys(context: ReviewContext, left: Ref, right: Ref) -> str:
    keys = [
        f"{a.name}.{', '.join(k.columns)} = {k.table}.{', '.join(k.references)}"
        for a, b in ((left.table, right.table), (right.table, left.table)) for k in a.foreign_keys if k.table == b.name
    ]  # fmt: skip
    if keys:
        return f"Join them by {' or '.join(keys)}."
    ways = [f"{left.table.name}.{', '.join(k.columns)} = {k.table}" for k in left.table.foreign_keys]
    ways += [f"{right.table.name}.{', '.join(k.columns)} = {k.table}" for k in right.table.foreign_keys]
    return (
        f"They meet through other tables only: {'; '.join(ways[:4])}."
        if ways
        else "They have nothing to do with each other."
    )
