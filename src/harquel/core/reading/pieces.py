"""Pieces that queries of ours are put together from."""

from __future__ import annotations

from collections.abc import Sequence
from functools import reduce

from sqlglot import exp

from harquel.core.domain.catalog import Table
from harquel.core.sql.tree import identifier


def divided(value: exp.Expr, by: float) -> exp.Expr:
    """A value in another unit."""
    return exp.Div(this=exp.Paren(this=value), expression=exp.Literal.number(by)) if by != 1 else value


def column_of(alias: str, name: str) -> exp.Column:
    """A column of what an alias stands for."""
    return exp.column(identifier(name), identifier(alias))


def table_of(table: Table, alias: str) -> exp.Table:
    """A table as it stands in FROM."""
    schema = identifier(table.schema) if table.schema and table.name != table.plain else None
    return exp.Table(this=identifier(table.plain), db=schema, alias=exp.TableAlias(this=identifier(alias)))


def all_of(tests: Sequence[exp.Expr]) -> exp.Expr:
    """Tests of which each must hold; at least one."""
    return reduce(lambda one, other: exp.And(this=one, expression=other), tests)


def either(one: exp.Expr, other: exp.Expr) -> exp.Expr:
    """Tests of which one must hold."""
    return exp.Or(this=one, expression=other)


def parts_of(test: exp.Expr) -> list[exp.Expr]:
    """The tests that a test is made of, all of which must hold."""
    return (
        [part for half in (test.this, test.expression) for part in parts_of(half)]
        if isinstance(test, exp.And)
        else [test]
    )
