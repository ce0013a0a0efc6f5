"""A statement said in plain sentences, from its tree and the notes: what, from where, which rows, in what order.

Complete: whatever part of the tree has no words of its own stands there as it is written, never left out. The same in
lines, for whoever checks it point by point, is in lines.py.
"""

from __future__ import annotations

from sqlglot import exp

from harquel.core.answers.phrases import Language
from harquel.core.domain.notes import Notes
from harquel.core.review.statement import Statement

from .lines import lines_of
from .queries import Queries

__all__ = ["lines_of", "read_back", "said_condition"]


def read_back(statement: Statement, notes: Notes, language: Language = "en") -> str:
    """The whole statement, a sentence for each of its parts; queries within it follow under letters."""
    return Queries(statement, notes, language).read()


def said_condition(statement: Statement, notes: Notes, node: exp.Expr, language: Language = "en") -> str:
    """A condition of a statement by itself, in the words of its read-back."""
    return Queries(statement, notes, language).condition(node)
