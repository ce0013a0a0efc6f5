"""`*` becomes the exposed columns, so that a column that is not exposed cannot ride along."""

from __future__ import annotations

from sqlglot import exp

from harquel.core.sql.names import Resolution


def expand_stars(tree: exp.Expr, names: Resolution) -> exp.Expr:
    """Replaces every resolved star in place; `names` must come from this very tree."""
    for star, columns in names.stars:
        select = star.parent
        assert isinstance(select, exp.Select)
        expanded: list[exp.Expr] = []
        for projection in select.expressions:
            expanded += columns if projection is star else [projection]
        select.set("expressions", expanded)
    return tree
