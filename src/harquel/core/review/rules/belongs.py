"""What is said to be from or in a place is found along its own key, not along that of something else.

Bad:  "customers from Saltreach": … JOIN route r ON r.id = s.route_id JOIN harbour h ON h.id = r.from_harbour_id
Good: … JOIN customer c ON c.id = b.customer_id JOIN harbour h ON h.id = c.home_harbour
"""

from __future__ import annotations

import itertools

from harquel.core.domain.catalog import Table
from harquel.core.domain.findings import Finding
from harquel.core.review.context import ReviewContext
from harquel.core.review.question import Mention
from harquel.core.review.rules.rule import rule

CODE = "another-key"
_JOINS = frozenset("from in of at on".split())


@rule(CODE)
def belongs(context: ReviewContext) -> list[Finding]:
    """One finding for the first thing whose own key to the place that is named is not used."""
    mentions = context.question.mentions
    for thing, place in itertools.pairwise(mentions):
        if place.first != thing.last + 2 or context.question.words[thing.last + 1].text not in _JOINS:
            continue
        for table in _tables(context, thing):
            for target in {m.table for m in place.meanings if m.kind == "value"} & set(context.statement.names.reads):
                keys = [k for k in table.foreign_keys if k.table == target]
                if keys and not any((table.name, c) in context.statement.read for k in keys for c in k.columns):
                    way = ", ".join(f"{table.name}.{c}" for k in keys for c in k.columns)
                    text = f"{thing.text} {context.question.words[thing.last + 1].text} {place.text}"
                    message = f"“{text}” goes by {way}; the query reaches {target} by another way."
                    return [context.finding(CODE, "error", message, f"Join along {way}.")]
    return []


def _tables(context: ReviewContext, mention: Mention) -> list[Table]:
    names = [m.table for m in mention.meanings if m.kind == "table"]
    return [t for n in names if (t := context.catalog.table(n)) is not None] if len(names) == 1 else []
