"""What is too large to be judged: refused before it keeps others waiting."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from harquel.core.guard.context import Objection, object_to

LONGEST: Final = 60_000
"""Characters of a statement; longer ones would keep others waiting while they are read."""
MOST_NODES: Final = 2_000
"""Parts of a statement, stars written out; a statement of a page has a few hundred."""
DEEPEST: Final = 120
"""Parts within parts; what walks over a tree goes down by a frame or two for each."""
MOST_JOINS: Final = 100
"""Tables joined in one place: each name may have to be looked for in all of them."""


class TooLarge(Exception):
    """A statement became too large to be judged; `args[0]` is the objection."""


def oversized(tree: exp.Expr, most: int = MOST_NODES) -> Objection | None:
    """The objection to a tree that is too large or too deep to be judged in time; looks at no more of it than that."""
    waiting, count = [(tree, 1)], 0
    while waiting:
        node, depth = waiting.pop()
        count += 1
        joins = len(node.args.get("joins") or ())
        if count > most or depth > DEEPEST or joins > MOST_JOINS:
            how = f"more than {most:,} parts" if count > most else f"parts nested more than {DEEPEST} deep"
            how = f"more than {MOST_JOINS} joins in one place" if joins > MOST_JOINS else how
            hint = "Write fewer columns, conditions or subqueries: a range instead of a list, IN instead of many ORs."
            return object_to("too-long", f"The statement has {how}: too large to be judged.", hint, "statement.length")
        waiting += [(child, depth + 1) for child in node.iter_expressions()]
    return None
