"""The row limit, written in with one row more than is allowed, so that a cut is known for one."""

from __future__ import annotations

from sqlglot import exp


def write_row_limit(tree: exp.Expr, rows: int) -> exp.Expr:
    """Lowers or adds LIMIT at the top. A smaller limit of the draft's own stays as it is.

    A query that cannot carry a plain LIMIT (VALUES, a computed limit, a parenthesis) is wrapped.
    """
    limit = tree.args.get("limit")
    if isinstance(tree, exp.Select | exp.SetOperation):
        if limit is None:
            return tree.limit(rows + 1, copy=False)
        number = limit.expression
        if isinstance(number, exp.Literal) and not number.is_string and number.this.isdigit():
            if int(number.this) > rows:
                limit.set("expression", exp.Literal.number(rows + 1))
            return tree
    inner = tree.unnest() if isinstance(tree, exp.Subquery) and not tree.args.get("limit") else tree
    if inner is not tree and isinstance(inner, exp.Query):
        return write_row_limit(inner, rows)
    return (
        exp.select("*")
        .from_(exp.Subquery(this=tree, alias=exp.TableAlias(this=exp.to_identifier("q"))))
        .limit(rows + 1)
    )
