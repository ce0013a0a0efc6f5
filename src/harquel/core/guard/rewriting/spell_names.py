"""Names are written as the database spells them, with the schema where there is one: nothing is left to chance.

On PostgreSQL a name without quotes is folded and looked up along a search path; ours holds the system
catalog only, so that no table of somebody else's can stand in for the one that was ruled on. On the others
a CTE could stand in for it: where one has the name of a table, the table is written with its schema.
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.catalog import Catalog, Table
from harquel.core.sql.dialects import DIALECTS
from harquel.core.sql.names import Resolution
from harquel.core.sql.tree import identifier


def spell_names(tree: exp.Expr, names: Resolution, catalog: Catalog, bound: bool = False) -> exp.Expr:
    """Respells every resolved table and column in place; `names` must come from this very tree.

    `bound`: with the schema in any case, for what is put into statements whose CTEs are not known here.
    """
    ctes = {cte.alias.casefold() for cte in tree.find_all(exp.CTE)}
    for node, table in names.tables:
        written = node.this
        if not node.alias and written.name != table.plain:
            node.set("alias", exp.TableAlias(this=written.copy()))
        node.set("this", identifier(table.plain))
        schema = _schema(table, catalog, bound or table.plain.casefold() in ctes)
        node.set("db", identifier(schema) if schema else None)
    for found, column, _ in names.columns:
        found.set("this", identifier(column.name))
        found.set("db", None)
    return tree


def _schema(table: Table, catalog: Catalog, needed: bool) -> str:
    """Elsewhere than on PostgreSQL there is one schema only, and no path along which names are looked up."""
    return (table.schema or catalog.default_schema) if needed or DIALECTS[catalog.engine].spells_schemas else ""
