"""`*` becomes the exposed columns, so that a column that is not exposed cannot ride along."""

from __future__ import annotations

from sqlglot import exp

from harquel.core.sql.names import Resolution


def expand_stars(tree: exp.Expr, names: Resolution) -> exp.Expr:
    """Replaces every resolved star in place; `names` must come from this very tree."""
    by_star = {id(star): columns for star, columns in names.stars}
    for select in {id(star.parent): star.parent for star, _ in names.stars}.values():
        assert isinstance(select, exp.Select)
        expanded: list[exp.Expr] = []
        for projection in select.expressions:
            # A copy: the same column may be meant by several stars. A star that stands for nothing is gone.
            own = by_star.get(id(projection))
            expanded += [projection] if own is None else [c.copy() for c in own]
        select.set("expressions", expanded)
    return tree
