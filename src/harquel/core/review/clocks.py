"""The clock of a database, as SQL asks for it."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from harquel.core.review.statement import arguments, called, plain

CLOCKS: Final = frozenset(
    "NOW CURDATE SYSDATE GETDATE LOCALTIME LOCALTIMESTAMP UTC_DATE UTC_TIMESTAMP CLOCK_TIMESTAMP "
    "STATEMENT_TIMESTAMP TRANSACTION_TIMESTAMP CURRENT_TIMESTAMP CURRENT_DATE".split()
)


def reads_clock(node: exp.Expr) -> bool:
    """Whether a node is the clock of the database."""
    if isinstance(node, exp.CurrentDate | exp.CurrentTimestamp | exp.CurrentTime | exp.CurrentDatetime):
        return True
    if called(node) in CLOCKS:
        return True
    if called(node) in ("DATE", "DATETIME", "STRFTIME", "JULIANDAY", "TIME", "UNIXEPOCH"):
        given = arguments(node)
        return not given or any(plain(a) == "now" for a in given)
    return False
