"""Figures that are made of other figures, and figures of those rows only that meet a condition."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from harquel.core.reading.paths import NoControl
from harquel.core.reading.value import Figure

FOLDED: Final = {"difference", "ratio", "percent", "part", "running", "change"}
_NARROWED: Final = frozenset({exp.Sum, exp.Avg, exp.Min, exp.Max, exp.Count})


def folded(figure: Figure, before: list[exp.Expr], groups: list[exp.Expr]) -> exp.Expr:
    """A figure made of earlier ones; `groups` is what figures are given for. Raises NoControl."""
    places = figure.between or (-1, -1)
    if not all(0 <= n < len(before) for n in places):
        raise NoControl(f"A {figure.figure} is between two earlier figures, by their places.")
    one, other = (exp.Paren(this=before[n].copy()) for n in places)
    if figure.figure in ("part", "running", "change"):
        return _over_groups(figure, one, groups)
    if figure.figure == "difference":
        return exp.Sub(this=one, expression=other)
    factor = "100.0" if figure.figure == "percent" else "1.0"
    return ratio(exp.Mul(this=exp.Literal.number(factor), expression=one), other)


def _over_groups(figure: Figure, one: exp.Expr, groups: list[exp.Expr]) -> exp.Expr:
    """A figure of a group beside those of the others."""
    if one.find(exp.Window):
        raise NoControl(f"A {figure.figure} is of a figure that each group has for itself.")
    if figure.figure == "part":
        hundredfold = exp.Mul(this=exp.Literal.number("100.0"), expression=one)
        return ratio(hundredfold, exp.Window(this=exp.Sum(this=one.copy())))
    if not groups:
        raise NoControl(f"A {figure.figure} needs to be told along what.")
    order = exp.Order(expressions=[exp.Ordered(this=groups[0].copy(), nulls_first=False)])
    if figure.figure == "running":
        return exp.Window(this=exp.Sum(this=one.copy()), order=order)
    return exp.Sub(this=one, expression=exp.Window(this=exp.Lag(this=one.copy()), order=order))


def ratio(part: exp.Expr, whole: exp.Expr) -> exp.Expr:
    """A fraction that is not cut off, and nothing where there is no whole."""
    return exp.Div(this=part, expression=exp.Nullif(this=whole, expression=exp.Literal.number(0)))


def only_of(measure: exp.Expr, test: exp.Expr) -> exp.Expr:
    """A measure over those of its rows that meet a condition: each of its sums and counts is of those.

    Raises NoControl.
    """
    held = exp.Paren(this=measure.copy())
    for found in list(held.find_all(exp.AggFunc)):
        if type(found) not in _NARROWED or found.find_ancestor(exp.Filter, exp.Window, exp.Query) is not None:
            raise NoControl("This measure cannot be narrowed: it is made of more than sums and counts of rows.")
        inner = found.this
        if isinstance(inner, exp.Distinct):
            if len(inner.expressions) != 1:
                raise NoControl("A measure of several distinct columns is of all its rows.")
            inner.set("expressions", [case(test.copy(), inner.expressions[0])])
        else:
            one = inner if not isinstance(inner, exp.Star) else exp.Literal.number(1)
            found.set("this", case(test.copy(), one))
    for ratio in list(held.find_all(exp.Div)):
        # Without such rows there is nothing to divide by, which is no error.
        if not isinstance(ratio.expression, exp.Literal):
            ratio.set("expression", exp.Nullif(this=ratio.expression, expression=exp.Literal.number(0)))
    found = held.this
    assert isinstance(found, exp.Expr)
    return found


def case(test: exp.Expr, value: exp.Expr) -> exp.Expr:
    """A value where a test holds, and nothing elsewhere."""
    return exp.Case(ifs=[exp.If(this=test, true=value)])
