"""Small queries of our own beside a draft: which condition left nothing over, was a tie cut, what a column holds.

They are texts like any other: whoever runs them has the guard rule on them first.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Final

from sqlglot import exp

from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.calendar import is_temporal
from harquel.core.review.statement import Level, Ref, Statement, is_aggregate
from harquel.core.sql.tree import identifier, render

Look = Callable[[str], list[list[Any]] | None]
"""Runs a text and gives its rows; None where it may not run or does not end in time."""
Holds = Callable[[Table, Column, str], bool | None]
"""Whether a column holds a text; None where that could not be seen."""
MOST_PROBES: Final = 8
_SHOWN: Final = 5


def trace_empty(
    statement: Statement,
    engine: str,
    look: Look,
    counted: bool = False,
    holds: Holds = lambda table, column, value: None,
) -> Finding | None:
    """Takes the conditions out one by one to find the one that left nothing over; None where none alone did.

    `counted`: the result is a count of none, no empty table.
    `holds`: whether a column holds a text at all.
    """
    select = statement.outer.select
    where, having = select.args.get("where"), select.args.get("having")
    if not isinstance(statement.tree, exp.Select) or (where is None and having is None):
        return None
    conditions = _taken_apart(where)
    if having is not None and select.args.get("group") is not None:
        grouped = _no_group(statement.outer, conditions, engine, look)
        if grouped is not None:
            return grouped
    # Values were looked at before the run: what asks for no partner is likelier to be the reason.
    order = sorted(range(len(conditions)), key=lambda n: not isinstance(conditions[n], exp.Not | exp.Exists))
    for number in order[:MOST_PROBES]:
        condition = conditions[number]
        rest = [c for i, c in enumerate(conditions) if i != number]
        rows = look(_probe(select, rest, engine, [exp.Count(this=exp.Star())]))
        if rows is None:
            return None
        count = rows[0][0] if rows else 0
        if not count:
            continue
        text = " ".join(condition.sql(comments=False).split())
        message = said_as("caveat-none-left", condition=text, rows=f"{int(count):,}")
        ref = next(iter(statement.refs(condition)), None)
        partner = _without_partner(condition, select)
        held = "" if partner else _held(select, rest, engine, look, ref, condition)
        if held:
            message = said_as("caveat-none-left-there", said=message, column=str(ref), held=held)
        plain = partner or isinstance(condition, exp.Not | exp.Exists)
        plain = plain or (ref is not None and _may_be_none(condition, ref, bool(held), counted, holds))
        return Finding(
            rule="result-empty", severity="info" if plain else "warning", message=message,
            hint="That condition may be wrong.",
        )  # fmt: skip
    return None


def _may_be_none(condition: exp.Expr, ref: Ref, held: bool, counted: bool, holds: Holds) -> bool:
    """Whether none may well be the answer: of a state that there is, or because no figure reaches a number."""
    if counted and ref.column.kind == "boolean":
        return True
    if held and ref.column.kind == "number" and isinstance(condition, exp.LT | exp.LTE | exp.GT | exp.GTE):
        return True
    return _there_at_all(condition, ref, holds)


def _without_partner(condition: exp.Expr, select: exp.Select) -> bool:
    """Whether it leaves the rows that found no partner in a table joined loosely: NOT EXISTS in other words."""
    if not isinstance(condition, exp.Is) or not isinstance(condition.expression, exp.Null):
        return False
    joins = [j for j in select.args.get("joins") or () if j.side == "LEFT"]
    return isinstance(condition.this, exp.Column) and condition.this.table in {j.alias_or_name for j in joins}


def _there_at_all(condition: exp.Expr, ref: Ref, holds: Holds) -> bool:
    """Whether a column is held against values that it has, only not in these rows: none was cancelled yesterday."""
    values = [condition.expression] if isinstance(condition, exp.EQ) else condition.args.get("expressions") or []
    if not isinstance(condition, exp.EQ | exp.In) or not isinstance(condition.this, exp.Column) or not values:
        return False
    if not all(isinstance(v, exp.Literal) for v in values):
        return False
    column = ref.column
    seen = {str(v) for v in (*column.options, *column.samples)}
    return all(
        v.name in seen or (column.kind == "text" and v.is_string and holds(ref.table, column, v.name)) for v in values
    )


def _taken_apart(where: exp.Expr | None) -> list[exp.Expr]:
    if where is None:
        return []
    return list(where.this.flatten() if isinstance(where.this, exp.And) else [where.this])


def _no_group(level: Level, conditions: list[exp.Expr], engine: str, look: Look) -> Finding | None:
    """Whether it is HAVING that left no group over, and what the groups come to instead."""
    having = level.select.args["having"].this
    figures = [n for n in having.walk() if is_aggregate(n)]
    figures += [level.outputs[c.name.casefold()] for c in having.find_all(exp.Column)
                if not c.table and is_aggregate(level.outputs.get(c.name.casefold(), c))]  # fmt: skip
    if not figures:
        return None
    ends = []
    for down in (False, True):
        probe = _bare(level.select, conditions, [figures[0].copy()])
        probe.set("group", exp.Group(expressions=[g.copy() for g in level.groups]))
        probe.set("order", exp.Order(expressions=[exp.Ordered(this=exp.Literal.number(1), desc=down)]))
        probe.set("limit", exp.Limit(expression=exp.Literal.number(1)))
        ends.append(look(render(probe, engine)))
    if not all(ends):
        return None
    least, most = (rows[0][0] for rows in ends if rows)
    text, said = (" ".join(n.sql(comments=False).split()) for n in (having, figures[0]))
    message = said_as("caveat-no-group", condition=text, figure=said, least=str(least), most=str(most))
    # That nothing reaches one may well be the answer.
    return Finding(rule="result-empty", severity="info", message=message, hint="Look at that figure.")


def _held(
    select: exp.Select, rest: list[exp.Expr], engine: str, look: Look, ref: Ref | None, condition: exp.Expr
) -> str:
    """What the column of a condition holds in the rows that would have been left, most frequent first."""
    column = condition.find(exp.Column)
    if ref is None or column is None:
        return ""
    if is_temporal(ref.column) or ref.column.kind == "number":
        rows = look(_probe(select, rest, engine, [exp.Min(this=column.copy()), exp.Max(this=column.copy())]))
        return f"between {rows[0][0]} and {rows[0][1]}" if rows and rows[0][0] is not None else ""
    if ref.column.kind not in ("text", "boolean"):
        return ""
    rows = look(_probe(select, rest, engine, [column.copy(), exp.Count(this=exp.Star())], by=column))
    shown = [f"'{r[0]}' ({int(r[1]):,})" if r[0] is not None else f"empty ({int(r[1]):,})" for r in rows or ()]
    return ", ".join(shown)


def _probe(
    select: exp.Select, conditions: list[exp.Expr], engine: str, wanted: list[exp.Expr], by: exp.Expr | None = None
) -> str:
    probe = _bare(select, conditions, wanted)
    if by is not None:
        probe.set("group", exp.Group(expressions=[by.copy()]))
        probe.set("order", exp.Order(expressions=[exp.Ordered(this=exp.Literal.number(2), desc=True)]))
        probe.set("limit", exp.Limit(expression=exp.Literal.number(_SHOWN)))
    return render(probe, engine)


def _bare(select: exp.Select, conditions: list[exp.Expr], wanted: list[exp.Expr]) -> exp.Select:
    """Other figures over the rows of a query under some of its conditions."""
    probe = exp.Select(expressions=wanted)
    for part in ("with_", "from_", "joins"):
        value = select.args.get(part)
        if value:
            probe.set(part, [v.copy() for v in value] if isinstance(value, list) else value.copy())
    if conditions:
        probe.set("where", exp.Where(this=exp.and_(*(c.copy() for c in conditions))))
    return probe


def tied(statement: Statement, engine: str, look: Look) -> Finding | None:
    """Whether the first row that LIMIT cut off stands level with the last one that it left."""
    level = statement.outer
    if not level.limit or not level.order or not isinstance(statement.tree, exp.Select):
        return None
    keys = [_ranked_by(level, ordered.this) for ordered in level.order]
    if any(key is None for key in keys):
        return None
    ref = statement.ref(keys[0])
    if ref is None or ref.column.kind != "text":
        # A name behind a figure only settles how level rows are laid out; which of them is cut off stays chance.
        keys = keys[:1]
    longer = statement.tree.copy()
    assert isinstance(longer, exp.Select)
    shown = [exp.alias_(key.copy(), identifier(f"ranked_by_{n}")) for n, key in enumerate(keys) if key is not None]
    longer.set("expressions", [*longer.expressions, *shown])
    longer.set("limit", exp.Limit(expression=exp.Literal.number(level.limit + 1)))
    rows = look(render(longer, engine))
    if rows is None or len(rows) <= level.limit:
        return None
    last, cut = (rows[n][-len(keys) :] for n in (level.limit - 1, level.limit))
    if last != cut:
        return None
    message = said_as("caveat-result-ties", value=str(cut[0]))
    return Finding(
        rule="result-ties", severity="warning", message=message, hint="Ask for more, or for all that are level."
    )


def _ranked_by(level: Level, key: exp.Expr) -> exp.Expr | None:
    """What an order goes by: an output's name or place stands for its expression."""
    if isinstance(key, exp.Column) and not key.table:
        return level.outputs.get(key.name.casefold(), key)
    if not isinstance(key, exp.Literal):
        return key
    place = int(str(key.this)) - 1 if str(key.this).isdigit() else -1
    projections = level.select.expressions
    return projections[place].unalias() if 0 <= place < len(projections) else None


def holds_text(ref: Ref, value: str, engine: str, look: Look) -> bool | None:
    """Whether a column holds a text; None where that could not be seen."""
    rows = look(rows_with(ref, value, [exp.Literal.number(1)], 1, engine))
    return None if rows is None else bool(rows)


def rows_with(ref: Ref, value: str | float, wanted: Sequence[exp.Expr], most: int, engine: str) -> str:
    """A query for the rows in which a column holds a text or a number, at most so many."""
    name = ref.table.name
    probe = exp.Select(expressions=list(wanted))
    probe.set("from_", exp.From(this=exp.to_table(name) if "." in name else exp.Table(this=identifier(name))))
    column = exp.Column(this=identifier(ref.column.name))
    literal = exp.Literal.string(value) if isinstance(value, str) else exp.Literal.number(f"{value:.15g}")
    probe.set("where", exp.Where(this=exp.EQ(this=column, expression=literal)))
    probe.set("limit", exp.Limit(expression=exp.Literal.number(most)))
    return render(probe, engine)
