"""SQL in lines: a new one before each clause of the outermost query. Nothing of its text is changed but blanks."""

from __future__ import annotations

import re
from typing import Final

_PIECE: Final = re.compile(r"'(?:[^']|'')*'|\"(?:[^\"]|\"\")*\"|`[^`]*`|[()]|\s+|[^\s'\"`()]+|.", re.DOTALL)
_CLAUSES: Final = ("FROM", "WHERE", "GROUP", "HAVING", "ORDER", "LIMIT", "UNION", "EXCEPT", "INTERSECT", "WINDOW")
_JOINS: Final = ("JOIN", "LEFT", "RIGHT", "INNER", "CROSS", "FULL")
_SHORT: Final = 72
"""Characters that stay on one line."""


def laid_out(sql: str) -> str:
    """The statement in lines."""
    if len(sql) <= _SHORT:
        return sql
    lines, depth, joined, between = [""], 0, False, False
    for match in _PIECE.finditer(sql):
        piece = match[0]
        word = piece.upper()
        if piece.isspace():
            lines[-1] += " " if lines[-1] else ""
            continue
        depth += (piece == "(") - (piece == ")")
        if depth == 0 and lines[-1]:
            first = word in _JOINS and not joined
            if word in _CLAUSES or first or (word in ("AND", "OR") and not between):
                lines[-1] = lines[-1].rstrip()
                lines.append("" if word in _CLAUSES else "  ")
        joined = word in _JOINS and word != "JOIN"
        between = word == "BETWEEN" or (between and word != "AND")
        lines[-1] += piece
    return "\n".join(line.rstrip() for line in lines)
