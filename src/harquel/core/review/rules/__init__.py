"""The rules of review, one a file: what a plausible draft can have wrong. Their order is that of the findings."""

from __future__ import annotations

from harquel.core.review.rules.aggregates import aggregates
from harquel.core.review.rules.averages import averages
from harquel.core.review.rules.bare_columns import bare_columns
from harquel.core.review.rules.belongs import belongs
from harquel.core.review.rules.both import both
from harquel.core.review.rules.clock import clock
from harquel.core.review.rules.compared_columns import compared_columns
from harquel.core.review.rules.default_filter import default_filter
from harquel.core.review.rules.distinct import distinct
from harquel.core.review.rules.grouping import grouping
from harquel.core.review.rules.integer_division import integer_division
from harquel.core.review.rules.left_join import left_join
from harquel.core.review.rules.left_out import left_out
from harquel.core.review.rules.like_example import like_example
from harquel.core.review.rules.measures import measures
from harquel.core.review.rules.multiplied import multiplied
from harquel.core.review.rules.negation import negation
from harquel.core.review.rules.not_known import not_known
from harquel.core.review.rules.nulls import nulls
from harquel.core.review.rules.numbers import numbers
from harquel.core.review.rules.off_key import off_key
from harquel.core.review.rules.other_time import other_time
from harquel.core.review.rules.outstanding import outstanding
from harquel.core.review.rules.periods import periods
from harquel.core.review.rules.ranking import ranking
from harquel.core.review.rules.rule import Rule
from harquel.core.review.rules.self_key import self_key
from harquel.core.review.rules.several_keys import several_keys
from harquel.core.review.rules.shares import shares
from harquel.core.review.rules.similar_table import similar_table
from harquel.core.review.rules.unasked import unasked
from harquel.core.review.rules.units import units
from harquel.core.review.rules.unjoined import unjoined
from harquel.core.review.rules.values import values
from harquel.core.review.rules.weekdays import weekdays

RULES: tuple[Rule, ...] = (
    values,
    unjoined,
    off_key,
    left_join,
    several_keys,
    belongs,
    multiplied,
    similar_table,
    left_out,
    not_known,
    unasked,
    periods,
    other_time,
    outstanding,
    clock,
    weekdays,
    numbers,
    compared_columns,
    both,
    grouping,
    bare_columns,
    distinct,
    averages,
    ranking,
    aggregates,
    nulls,
    integer_division,
    shares,
    measures,
    default_filter,
    negation,
    self_key,
    like_example,
    units,
)

OF_STATEMENTS: tuple[Rule, ...] = tuple(r for r in RULES if r.needs == "statement")
"""Those that need no question."""
