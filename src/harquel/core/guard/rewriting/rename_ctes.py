"""A CTE that has the name of a table gets another one: no engine and no reader can take one for the other.

Engines differ in where such a name means which: SQLite lets every CTE of a WITH see all others of it.
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.sql.names import Resolution
from harquel.core.sql.tree import identifier


def rename_ctes(tree: exp.Expr, names: Resolution, catalog: Catalog) -> exp.Expr:
    """Renames in place, references too; `names` must come from this very tree."""
    tables = {t.plain.casefold() for t in catalog.tables}
    ctes = [c for c in tree.find_all(exp.CTE) if c.alias.casefold() in tables]
    if not ctes:
        return tree
    taken = tables | {n.name.casefold() for n in tree.find_all(exp.Identifier)}
    renamed: dict[str, str] = {}
    for cte in ctes:
        old = cte.alias.casefold()
        if old not in renamed:
            renamed[old] = _free(f"{cte.alias}_rows", taken)
        cte.args["alias"].set("this", identifier(renamed[old]))
    real = {id(node) for node, _ in names.tables}
    for node in tree.find_all(exp.Table):
        new = renamed.get(node.name.casefold()) if isinstance(node.this, exp.Identifier) else None
        if new is None or id(node) in real or node.args.get("db"):
            continue
        if not node.alias:
            node.set("alias", exp.TableAlias(this=node.this.copy()))
        node.set("this", identifier(new))
    return tree


def _free(name: str, taken: set[str]) -> str:
    number, free = 1, name
    while free.casefold() in taken:
        number += 1
        free = f"{name}_{number}"
    taken.add(free.casefold())
    return free
