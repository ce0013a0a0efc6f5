"""An average is taken over the rows themselves, not over averages or shares of groups of unequal size.

Bad:  SELECT AVG(a) FROM (SELECT AVG(wave_m) AS a FROM weather_reading GROUP BY harbour_id)
Good: SELECT AVG(wave_m) FROM weather_reading
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.domain.findings import Finding
from harquel.core.language.say import said_as
from harquel.core.review.context import ReviewContext
from harquel.core.review.rules.rule import rule
from harquel.core.review.statement import within

CODE = "average-of-averages"


@rule(CODE)
def averages(context: ReviewContext) -> list[Finding]:
    """One finding for each average over averages, and each product of a sum and an average."""
    found = []
    for level in context.statement.levels:
        for node in level.aggregates:
            if isinstance(node, exp.Avg):
                source, where = context.statement.origin(node.this, level)
                inner = [n for n in within(source) if isinstance(n, exp.Avg)] if where is not level else []
                ratio = source.find(exp.Div) if isinstance(source, exp.Div | exp.Mul | exp.Paren) else None
                if inner or (ratio is not None and _of_columns(context, ratio)):
                    message = said_as("caveat-averages-averages")
                    hint = "Average the rows themselves, or divide one sum by the other."
                    found.append(context.finding(CODE, "error", message, hint, node))
        for projection in level.select.expressions:
            for node in within(projection):
                if (
                    isinstance(node, exp.Mul)
                    and any(isinstance(n, exp.Avg) for n in within(node))
                    and any(isinstance(n, exp.Sum) for n in within(node))
                ):
                    message = said_as("caveat-sum-times-average")
                    found.append(context.finding(CODE, "error", message, "Multiply in each row, then add up.", node))
    return found


def _of_columns(context: ReviewContext, ratio: exp.Expr) -> bool:
    """Whether each row's own share is averaged."""
    sides = context.statement.refs(ratio.this), context.statement.refs(ratio.expression)
    return all(sides) and not ratio.find(exp.Case)
