"""The rules of review, one a file: what a plausible draft can have wrong. Their order is that of the findings."""

from __future__ import annotations

from harquel.core.review.rules.averages import averages
from harquel.core.review.rules.bare_columns import bare_columns
from harquel.core.review.rules.clock import clock
from harquel.core.review.rules.distinct import distinct
from harquel.core.review.rules.integer_division import integer_division
from harquel.core.review.rules.last_day import last_day
from harquel.core.review.rules.left_join import left_join
from harquel.core.review.rules.multiplied import multiplied
from harquel.core.review.rules.nulls import nulls
from harquel.core.review.rules.off_key import off_key
from harquel.core.review.rules.rule import Rule
from harquel.core.review.rules.shares import shares
from harquel.core.review.rules.units import units
from harquel.core.review.rules.unjoined import unjoined
from harquel.core.review.rules.values import values

RULES: tuple[Rule, ...] = (
    values,
    unjoined,
    off_key,
    left_join,
    multiplied,
    clock,
    last_day,
    bare_columns,
    distinct,
    averages,
    nulls,
    integer_division,
    shares,
    units,
)
