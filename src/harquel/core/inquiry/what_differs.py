"""Why two ways give different rows: a condition or a limit that only one of them has, tried by leaving it out.

What is said is true, as it was tried: without that condition the two agree.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any, Final

from sqlglot import exp

from harquel.core.answers import said_condition
from harquel.core.answers.agreement import agree
from harquel.core.domain.notes import Notes
from harquel.core.domain.result import Result
from harquel.core.language.say import said_as
from harquel.core.review.statement import Statement
from harquel.core.sql.tree import render

_MOST_TRIES: Final = 6

Look = Callable[[str], list[list[Any]] | None]


def explained(one: Statement, other: Statement, first: Result, second: Result, notes: Notes, look: Look) -> str:
    """What to add to the difference; empty where no single condition explains it. `first` is what is shown."""
    known = [{said_condition(s, notes, c) for c in _conditions(s.tree)} for s in (one, other)]
    tries = 0
    for statement, mine, theirs, against, phrase in (
        (other, second, known[0], first, "differs-also-asks"),
        (one, first, known[1], second, "differs-this-also-asks"),
    ):
        for place, condition in enumerate(_conditions(statement.tree)):
            said = said_condition(statement, notes, condition)
            if said in theirs or tries >= _MOST_TRIES:
                continue
            tries += 1
            rows = look(render(_without(statement.tree, place), statement.catalog.engine))
            if rows is not None and agree(against, replace(mine, rows=rows)):
                return said_as(phrase, condition=said)
    for statement, mine, unlimited, against, whose in (
        (one, first, other, second, "differs-this-stops"), (other, second, one, first, "differs-stops"),
    ):  # fmt: skip
        limit = statement.outer.limit if statement.levels and unlimited.levels else None
        if limit and unlimited.outer.limit is None:
            rows = look(render(_unlimited(statement.tree), statement.catalog.engine))
            if rows is not None and agree(against, replace(mine, rows=rows)):
                return said_as(whose, rows=f"{limit:,}")
    return ""


def _conditions(tree: exp.Expr) -> Iterator[exp.Expr]:
    """What rows must meet, each part of AND by itself, without what ties two tables."""
    for where in tree.find_all(exp.Where, exp.Having):
        for part in where.this.flatten() if isinstance(where.this, exp.And) else (where.this,):
            sides = (part.this, part.expression) if isinstance(part, exp.EQ) else ()
            if not (sides and all(isinstance(s, exp.Column) for s in sides)):
                yield part


def _without(tree: exp.Expr, place: int) -> exp.Expr:
    copied = tree.copy()
    for at, condition in enumerate(_conditions(copied)):
        if at == place:
            condition.replace(exp.true())
            break
    return copied


def _unlimited(tree: exp.Expr) -> exp.Expr:
    copied = tree.copy()
    copied.set("limit", None)
    return copied
