"""How many rows of an answer may come back: less where rows of a table could be told apart beyond their share."""

from __future__ import annotations

from fnmatch import fnmatchcase

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.policy import Policy
from harquel.core.sql.names import Resolution


def row_limit(tree: exp.Expr, names: Resolution, policy: Policy, whole: Catalog) -> int:
    """The policy's limit on rows, or the share of the smallest table concerned; `names` come from this very tree."""
    most, listing = policy.limits.rows, policy.listing
    if listing.share is None or _is_one_row(tree) or not _tells_apart(tree, names, whole):
        return most
    for table in {t.name: t for _, t in names.tables}.values():
        concerned = any(fnmatchcase(table.name.lower(), p.lower()) for p in listing.tables)
        known = whole.table(table.name)
        count = known.row_count if known is not None else None
        if concerned and count is not None:
            most = min(most, max(1, int(count * listing.share)))
    return most


def _is_one_row(tree: exp.Expr) -> bool:
    """Whether the outermost query gives one row of figures. Groups can be told apart like rows: they count as such."""
    while isinstance(tree, exp.Subquery):
        tree = tree.this
    if isinstance(tree, exp.SetOperation):
        return _is_one_row(tree.this) and _is_one_row(tree.expression)
    if not isinstance(tree, exp.Select):
        return False
    whole = [n for p in tree.expressions for n in p.find_all(exp.AggFunc) if not isinstance(n.parent, exp.Window)]
    return tree.args.get("group") is None and bool(whole)


def _tells_apart(tree: exp.Expr, names: Resolution, whole: Catalog) -> bool:
    """Whether rows of a table could be told apart in the result: groups of many rows each are no listing.

    A column whose values are not known, or that is read by way of a subquery, counts as one that tells apart.
    """
    group = tree.args.get("group") if isinstance(tree, exp.Select) else None
    if group is None:
        return True
    meant = {id(node): (column, table) for node, column, table in names.columns}
    combinations, rows = 1, 0
    for node in group.find_all(exp.Column):
        column, table = meant.get(id(node), (None, None))
        stored = whole.table(table.name) if table is not None else None
        different = _different(stored, column.name, whole) if stored is not None and column is not None else None
        if stored is None or stored.row_count is None or different is None:
            return True
        combinations *= max(1, different)
        rows = max(rows, stored.row_count)
    return combinations * 2 > rows


def _different(table: Table, name: str, whole: Catalog) -> int | None:
    """How many values a column has at most, where that is known: seen by the scan, or as many as it can point at."""
    column = table.column(name)
    if column is None or column.primary_key:
        return None
    if column.distinct is not None:
        return column.distinct
    key = next((k for k in table.foreign_keys if k.columns == (column.name,)), None)
    target = whole.table(key.table) if key is not None else None
    return target.row_count if target is not None else None
