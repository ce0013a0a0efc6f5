"""Single nodes of a tree as review reads them: what stands below, what is called, what a literal says."""

from __future__ import annotations

from collections.abc import Iterator

from sqlglot import exp

from harquel.core.guard.allowed import GATHERING

Plain = str | float | bool | None


def within(node: exp.Expr) -> Iterator[exp.Expr]:
    """A node and all below it, without what stands in queries of their own."""
    stack = [node]
    while stack:
        here = stack.pop()
        yield here
        if here is not node and isinstance(here, exp.Query):
            continue
        if isinstance(here, exp.Subquery | exp.Exists):
            continue
        if isinstance(here, exp.In) and here.args.get("query") is not None:
            stack.append(here.this)
            continue
        stack += list(here.iter_expressions())


def is_aggregate(node: exp.Expr) -> bool:
    """Whether it makes one value of many rows."""
    if isinstance(node, exp.AggFunc):
        return True
    name = called(node)
    return name in GATHERING or name in ("TOTAL", "BOOL_OR", "BOOL_AND", "STDDEV", "VARIANCE")


def called(node: exp.Expr | None) -> str:
    """The name of a function that the library was not told about, in capitals; empty for other nodes."""
    return str(node.this).upper() if isinstance(node, exp.Anonymous) else ""


def arguments(node: exp.Expr) -> list[exp.Expr]:
    """What such a function is given."""
    return list(node.expressions)


def plain(node: exp.Expr | None) -> Plain | None:
    """The value of a literal; None when it is none (and for NULL)."""
    if isinstance(node, exp.Literal):
        return str(node.this) if node.is_string else float(node.this)
    if isinstance(node, exp.Boolean):
        return bool(node.this)
    if isinstance(node, exp.Neg) and isinstance(node.this, exp.Literal) and not node.this.is_string:
        return -float(node.this.this)
    if isinstance(node, exp.Paren | exp.Cast | exp.Nullif):
        return plain(node.this)
    if called(node) == "NULLIF" and node is not None:
        return plain(node.expressions[0])
    if called(node) in ("DATE", "DATETIME", "TIMESTAMP") and node is not None and len(node.expressions) == 1:
        return plain(node.expressions[0])
    return None
