"""Proves on the finished tree that nobody reads a restricted table past its wrapper.

The property: wherever in the statement a table stands of which this person may see a part only, it stands in the
FROM of a query that reads nothing else, carries every condition of the policy, and masks every masked column.
It shares no code with the rewriting that makes this so, and does not resolve names: a name that could mean a
restricted table counts as one. Inside a wrapper every table is named with its schema, so that no CTE of the
statement can stand in for it.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final, NamedTuple

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.terms import Terms
from harquel.core.sql.tree import ParseFault, parse

_HELD: Final = frozenset({"expressions", "from_", "where", "limit", "offset"})
"""All that a wrapper consists of."""


class Unproved(Exception):
    """A restricted table could be read here past its rule; `args[0]` is its name."""


class _Last(NamedTuple):
    """For whom, and in which catalog, tables were looked through last: all statements of an inquiry ask the same."""

    terms: Terms
    catalog: Catalog
    found: dict[str, list[Table]]


class _Kept:
    last: _Last | None = None


def restricted_tables(terms: Terms, catalog: Catalog) -> dict[str, list[Table]]:
    """The tables of which this person may see a part only, by their plain names, folded: one of each schema."""
    last = _Kept.last
    # The very same, not an equal one; neither is ever changed.
    if last is None or last.terms is not terms or last.catalog is not catalog:
        last = _Kept.last = _Last(terms, catalog, _restricted_tables(terms, catalog))
    return last.found


def _restricted_tables(terms: Terms, catalog: Catalog) -> dict[str, list[Table]]:
    found: dict[str, list[Table]] = {}
    for table in catalog.tables:
        masked = any(terms.treatment(table.name, c)[0] == "mask" for c in table.columns)
        if masked or terms.rules(table.name):
            found.setdefault(table.plain.casefold(), []).append(table)
    return found


def _meant(node: exp.Table, catalog: Catalog, restricted: dict[str, list[Table]]) -> Table | None:
    """The restricted table that a name means, or could mean where no schema is written."""
    alike = restricted.get(node.name.casefold(), [])
    schema = node.text("db").casefold()
    if schema:
        alike = [t for t in alike if (t.schema or catalog.default_schema).casefold() == schema]
    return alike[0] if alike else None


def prove(tree: exp.Expr, terms: Terms, catalog: Catalog, restricted: dict[str, list[Table]], mark: str = "") -> None:
    """Raises Unproved. `mark` is what the aliases inside wrappers end with."""
    if not restricted:
        return
    waiting: list[object] = [tree]
    while waiting:
        node = waiting.pop()
        if not isinstance(node, exp.Expr):
            continue
        if isinstance(node, exp.Subquery) and _is_wrapper(node.this, terms, catalog, restricted, mark):
            # What hangs on it beside its inside is the statement's own.
            waiting += [v for key, value in node.args.items() if key != "this" for v in _values(value)]
            continue
        if isinstance(node, exp.Table) and (table := _meant(node, catalog, restricted)) is not None:
            raise Unproved(table.name)
        waiting += [v for value in node.args.values() for v in _values(value)]


def _values(value: object) -> Iterator[object]:
    if isinstance(value, list | tuple):
        yield from value
    else:
        yield value


def _is_wrapper(node: object, terms: Terms, catalog: Catalog, restricted: dict[str, list[Table]], mark: str) -> bool:
    if not isinstance(node, exp.Select) or {k for k, v in node.args.items() if v} - _HELD:
        return False
    source = node.args["from_"].this if node.args.get("from_") else None
    if not isinstance(source, exp.Table) or source.args.get("joins") or not source.text("db"):
        return False
    table = _meant(source, catalog, restricted)
    if table is None or not _masks(node, table, terms):
        return False
    wanted: list[exp.Expr] = []
    for _, text in terms.rules(table.name):
        try:
            (condition,) = parse(f"SELECT 1 WHERE {text}", catalog.engine)
        except (ParseFault, ValueError):
            return False
        wanted += _all_of(condition.args["where"].this)
    where = node.args.get("where")
    found = _all_of(where.this) if where is not None else []
    return len(found) == len(wanted) and all(_says(w, f, mark) for w, f in zip(wanted, found, strict=True))


def _masks(node: exp.Select, table: Table, terms: Terms) -> bool:
    """Whether every column shown is a column of the table, and nothing of it where it is masked."""
    for shown in node.expressions:
        column = table.column(shown.alias_or_name)
        if column is None:
            return False
        hidden = terms.treatment(table.name, column)[0] == "mask"
        value = shown.this if isinstance(shown, exp.Alias) else shown
        if hidden == isinstance(value, exp.Column) or (hidden and value.find(exp.Column, exp.Query) is not None):
            return False
        if not hidden and value.name.casefold() != column.name.casefold():
            return False
    return True


def _all_of(condition: exp.Expr) -> list[exp.Expr]:
    """The conditions that AND joins, from the left."""
    condition = _bare(condition)
    if isinstance(condition, exp.And):
        return _all_of(condition.this) + _all_of(condition.expression)
    return [condition]


def _bare(node: exp.Expr) -> exp.Expr:
    while isinstance(node, exp.Paren):
        node = node.this
    return node


def _says(wanted: object, found: object, mark: str) -> bool:
    """Whether a condition as found is the policy's, with values in the places of names, and names spelt out."""
    if isinstance(wanted, exp.Expr) and isinstance(found, exp.Expr):
        return _node_says(_bare(wanted), _bare(found), mark)
    if isinstance(wanted, list) and isinstance(found, list):
        return len(wanted) == len(found) and all(_says(w, f, mark) for w, f in zip(wanted, found, strict=True))
    return wanted == found


def _node_says(wanted: exp.Expr, found: exp.Expr, mark: str) -> bool:
    if isinstance(wanted, exp.Placeholder):
        return _is_value(found)
    if type(wanted) is not type(found):
        return False
    if isinstance(wanted, exp.Identifier):
        return _same_name(wanted.name, found.name, mark)
    if isinstance(wanted, exp.Table) and not wanted.args.get("joins") and not found.args.get("joins"):
        # A condition with a WITH of its own is refused by this: its CTEs have no schema.
        spelt = not wanted.text("db") or wanted.text("db").casefold() == found.text("db").casefold()
        return bool(found.text("db")) and spelt and _same_name(wanted.name, found.name, "")
    if isinstance(wanted, exp.In) and any(isinstance(e, exp.Placeholder) for e in wanted.expressions):
        return _list_says(wanted, found, mark)
    # Schemas are spelt out when a condition is written in, aliases get a mark.
    passing = {"db", "catalog", "alias"} if not isinstance(wanted, exp.Alias) else set()
    keys = {k for k in {**wanted.args, **found.args} if k not in passing}
    return all(_says(wanted.args.get(k) or None, found.args.get(k) or None, mark) for k in keys)


def _list_says(wanted: exp.In, found: exp.Expr, mark: str) -> bool:
    """A list that ends with the values of a name."""
    kept = [e for e in wanted.expressions if not isinstance(e, exp.Placeholder)]
    extra = found.expressions[len(kept) :]
    return (
        _says(wanted.this, found.this, mark) and bool(extra) and all(map(_is_value, extra))
        and not found.args.get("query")
        and all(_says(w, f, mark) for w, f in zip(kept, found.expressions, strict=False))
    )  # fmt: skip


def _same_name(wanted: str, found: str, mark: str) -> bool:
    plain = found.removesuffix(f"_{mark}") if mark else found
    return plain.casefold() == wanted.casefold()


def _is_value(node: exp.Expr) -> bool:
    bare = node.this if isinstance(node, exp.Neg) else node
    return isinstance(bare, exp.Literal | exp.Null)
