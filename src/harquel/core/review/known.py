"""What a condition says, in a form that can be compared, and what people's own texts ask for in that form."""

from __future__ import annotations

from functools import lru_cache

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Column
from harquel.core.domain.notes import Measure, Notes
from harquel.core.review.statement import Condition, Plain, Statement
from harquel.core.sql.names import resolve
from harquel.core.sql.tree import ParseFault, parse

Known = tuple[str, str, str, Plain]
"""A condition by what it says: table, column, operator, value."""


def known_of(condition: Condition) -> list[Known]:
    """What a condition says, in a form that can be compared; one for each of several values."""
    ref, op = condition.ref, condition.op
    if ref is None or not condition.bare:
        return []
    if op in ("true", "false"):
        return [(*ref.key, "=", op == "true")]
    if op in ("is null", "is not null"):
        return [(*ref.key, op, None)]
    found: list[Known] = []
    for value in condition.values:
        if op in ("=", "in") or (op == "<>" and ref.column.kind == "boolean"):
            plain = truth(value) if is_flag(ref.column) else value
            if op == "<>":
                plain = not plain
            found.append((*ref.key, "=", plain))
        elif op in ("<>", "not in"):
            if is_flag(ref.column):
                found.append((*ref.key, "=", not truth(value)))
            else:
                found.append((*ref.key, "<>", value))
        else:
            found.append((*ref.key, op, value))
    return found


def is_flag(column: Column) -> bool:
    """Whether it holds yes or no."""
    return column.kind == "boolean"


def truth(value: Plain) -> bool:
    """What a literal beside such a column says."""
    if isinstance(value, str):
        return value.casefold() in ("t", "true", "1", "yes")
    return bool(value)


def _select(measure: Measure, engine: str) -> str:
    tables = sorted(
        {c.table for c in _columns_of(f"{measure.sql}, {measure.where or '1'}, {measure.when or '1'}", engine)}
        | {measure.of}
    )
    return f"SELECT {measure.sql} FROM {', '.join(t for t in tables if t)} WHERE {measure.where or '1 = 1'}"


@lru_cache(maxsize=1024)
def _columns_of(sql: str, engine: str) -> frozenset[exp.Column]:
    """The columns in a definition; none where it cannot be read, which the notes were checked for when they came in."""
    try:
        (tree,) = parse(f"SELECT {sql}", engine)
    except (ParseFault, ValueError):
        return frozenset()
    return frozenset(tree.find_all(exp.Column))


_READ: dict[tuple[str, str, int], tuple[Catalog, frozenset[Known]]] = {}
"""What people's texts ask for, by text, engine and catalog, which is kept so that no other takes its place."""


def conditions_in(sql: str, engine: str, catalog: Catalog, notes: Notes) -> frozenset[Known]:
    """The conditions of a text that people wrote; none of one that cannot be read."""
    key = (sql, engine, id(catalog))
    known = _READ.get(key)
    if known is None:
        found: frozenset[Known] = frozenset()
        try:
            (tree,) = parse(sql, engine)
            statement = Statement(tree, resolve(tree, catalog), catalog)
            found = frozenset(k for c in statement.conditions for k in known_of(c))
        except (ParseFault, ValueError):
            pass
        if len(_READ) > 500:
            _READ.clear()  # another thread may do so at any time
        known = _READ[key] = catalog, found
    return known[1]


def measure_columns(measure: Measure, engine: str, catalog: Catalog) -> frozenset[tuple[str, str]]:
    """The columns that the figure of a measure is made of."""
    found = set()
    for column in _columns_of(measure.sql, engine):
        table = catalog.table(column.table or measure.of)
        known = table.column(column.name) if table is not None else None
        if table is not None and known is not None:
            found.add((table.name, known.name))
    return frozenset(found)


def measure_conditions(measure: Measure, catalog: Catalog, notes: Notes) -> frozenset[Known]:
    """What the definition of a measure asks of its rows."""
    return (
        conditions_in(_select(measure, catalog.engine), catalog.engine, catalog, notes)
        if measure.where
        else frozenset()
    )


def follows(statement: Statement, measure: Measure, notes: Notes) -> bool:
    """Whether a statement that has a measure's figure keeps to its definition: its columns, over its rows."""
    catalog = statement.catalog
    if not measure_columns(measure, catalog.engine, catalog) <= statement.read:
        return False
    said = {k for c in statement.conditions for k in known_of(c)}
    return measure_conditions(measure, catalog, notes) <= said
