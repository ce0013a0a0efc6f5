"""A CTE that has the name of a table, or of another CTE, gets another one: nobody can take one for the other.

Engines differ in where such a name means which: SQLite lets every CTE of a WITH see all others of it; MariaDB takes an
outer one for an inner one of that name, so that other rows come, and can end by itself over it (docs/engines.md).
"""

from __future__ import annotations

from collections import Counter

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.sql.names import Resolution
from harquel.core.sql.tree import identifier


def rename_ctes(tree: exp.Expr, names: Resolution, catalog: Catalog) -> bool:
    """Renames in place, references too; whether there was anything to rename. `names` comes from this very tree."""
    tables = {t.plain.casefold() for t in catalog.tables}
    ctes = list(tree.find_all(exp.CTE))
    often = Counter(c.alias.casefold() for c in ctes)
    mistakable = [c for c in ctes if c.alias.casefold() in tables or often[c.alias.casefold()] > 1]
    if not mistakable:
        return False
    taken = tables | {n.name.casefold() for n in tree.find_all(exp.Identifier)}
    renamed = {id(cte): _free(f"{cte.alias}_rows", taken) for cte in mistakable}
    for node, cte in names.ctes:
        if id(cte) in renamed:
            if not node.alias:
                node.set("alias", exp.TableAlias(this=node.this.copy()))
            node.set("this", identifier(renamed[id(cte)]))
    for cte in mistakable:
        cte.args["alias"].set("this", identifier(renamed[id(cte)]))
    return True


def _free(name: str, taken: set[str]) -> str:
    number, free = 1, name
    while free.casefold() in taken:
        number += 1
        free = f"{name}_{number}"
    taken.add(free.casefold())
    return free
