"""Names are written as the database spells them, with the schema where there is one: nothing is left to chance.

On PostgreSQL a name without quotes is folded and looked up along a search path; ours holds the system
catalog only, so that no table of somebody else's can stand in for the one that was ruled on.
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.sql.names import Resolution
from harquel.core.sql.tree import identifier


def spell_names(tree: exp.Expr, names: Resolution, catalog: Catalog) -> exp.Expr:
    """Respells every resolved table and column in place; `names` must come from this very tree."""
    for node, table in names.tables:
        written = node.this
        if not node.alias and written.name != table.plain:
            node.set("alias", exp.TableAlias(this=written.copy()))
        node.set("this", identifier(table.plain))
        # Elsewhere there is one schema only, and no path along which names are looked up.
        schema = (table.schema or catalog.default_schema) if catalog.engine == "postgresql" else ""
        node.set("db", identifier(schema) if schema else None)
    for found, column, _ in names.columns:
        found.set("this", identifier(column.name))
        found.set("db", None)
    return tree
