"""The unit of each result column, where the notes say it and the tree keeps it."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.domain.notes import Notes
from harquel.core.sql.tree import ParseFault, parse

_KEEPING = (exp.Sum, exp.Avg, exp.Min, exp.Max, exp.Abs, exp.Coalesce, exp.Paren, exp.Cast)
_BY_NAME = frozenset({"ROUND", "IFNULL", "TRUNC", "TRUNCATE", "FLOOR", "CEIL", "CEILING", "TOTAL", "NVL", "MEDIAN"})


def units_of(tree: exp.Expr, engine: str, catalog: Catalog, notes: Notes) -> list[str | None]:
    """One unit per projection of the outermost SELECT; None where it is not certain."""
    select = tree
    while isinstance(select, exp.SetOperation | exp.Subquery):
        select = select.this
    if not isinstance(select, exp.Select):
        return []
    sources = {t.alias_or_name.casefold(): t.name for t in select.find_all(exp.Table)}
    measures = _measures(notes, engine)
    return [
        _unit(p.unalias(), sources, catalog, notes, measures) or _said_by_name(p.alias_or_name)
        for p in select.expressions
    ]


def _said_by_name(name: str) -> str | None:
    """A computed column that is called a percentage is one."""
    return "%" if name.lower().endswith(("_percent", "_pct")) or name.lower() == "percent" else None


def _measures(notes: Notes, engine: str) -> dict[type[exp.Expr], dict[str, str]]:
    """Their units by what they are outermost and are bare."""
    found: dict[type[exp.Expr], dict[str, str]] = {}
    for measure in notes.measures.values():
        known = kind_of_measure(measure.sql, engine) if measure.unit else None
        if measure.unit and known is not None:
            found.setdefault(known[0], {})[known[1]] = measure.unit
    return found


def bare_measure(sql: str, engine: str) -> str | None:
    """None for a definition that cannot be read; it then names no unit."""
    found = kind_of_measure(sql, engine)
    return found[1] if found is not None else None


@lru_cache(maxsize=4096)
def kind_of_measure(sql: str, engine: str) -> tuple[type[exp.Expr], str] | None:
    """What a definition is outermost, and all of it without table names; None for one that cannot be read."""
    try:
        node = parse(f"SELECT {sql}", engine)[0].expressions[0]
    except (ParseFault, IndexError):
        return None
    return type(node), bare(node)


def bare(node: exp.Expr) -> str:
    """The expression without its table names, so that aliases do not matter."""
    known = _bare.get(id(node))
    # The node is kept beside it, so that no other has its identity; a statement that is read stays as it is.
    if known is not None and known[0] is node:
        return known[1]
    copy = node.copy()
    for column in copy.find_all(exp.Column):
        column.set("table", None)
    text = copy.sql(copy=False).casefold()
    if len(_bare) >= _MOST_BARE:
        _bare.clear()
    _bare[id(node)] = (node, text)
    return text


_MOST_BARE: Final = 64
_bare: dict[int, tuple[exp.Expr, str]] = {}
"""The last few, by their identity: sentence, units, measures and lines each ask for the same ones."""


def _rounded(node: exp.Expr) -> exp.Expr | None:
    """What is rounded, or given another value in place of null; functions other than a few have only a name."""
    if isinstance(node, exp.Anonymous) and str(node.this).upper() in _BY_NAME and node.expressions:
        return node.expressions[0]  # type: ignore[no-any-return]
    return None


def _unit(
    node: exp.Expr,
    sources: dict[str, str],
    catalog: Catalog,
    notes: Notes,
    measures: dict[type[exp.Expr], dict[str, str]],
) -> str | None:
    if (alike := measures.get(type(node))) and (by_measure := alike.get(bare(node))):
        return by_measure
    if rounded := _rounded(node):
        return _unit(rounded, sources, catalog, notes, measures)
    if isinstance(node, exp.Column):
        names = [sources[node.table.casefold()]] if node.table.casefold() in sources else list(sources.values())
        units = {
            notes.of(name).columns[column.name].unit
            for name in names
            if (table := catalog.table(name)) is not None
            and (column := table.column(node.name)) is not None
            and column.name in notes.of(name).columns
        }
        return units.pop() if len(units) == 1 else None
    if isinstance(node, _KEEPING):
        return _unit(node.this, sources, catalog, notes, measures)
    if isinstance(node, exp.Div | exp.Mul) and isinstance(node.expression, exp.Literal):
        inner, number = _unit(node.this, sources, catalog, notes, measures), _number(node.expression)
        if inner is not None and number:
            return notes.known_units.converted(inner, number if isinstance(node, exp.Mul) else 1 / number)
    return None


def _number(literal: exp.Literal) -> float:
    try:
        return 0.0 if literal.is_string else float(literal.this)
    except ValueError:
        return 0.0
