"""What every part of the read-back shares: the words, the letters of inner queries, names of columns and values."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable
from string import ascii_uppercase

from sqlglot import exp

from harquel.core.answers.phrases import PHRASES, Language
from harquel.core.answers.units import kind_of_measure
from harquel.core.domain.notes import Notes
from harquel.core.review.statement import Ref, Statement


class Saying(ABC):
    """Says parts of one statement in one language. `inner` holds the queries that are told later, by name."""

    def __init__(self, statement: Statement, notes: Notes, language: Language) -> None:
        self.statement, self.notes = statement, notes
        self.words = PHRASES[language]
        self.several = len(statement.names.tables) > 1
        self.inner: list[tuple[str, exp.Expr]] = []
        self.measures = {
            kind: name for name, measure in notes.measures.items()
            if (kind := kind_of_measure(measure.sql, statement.catalog.engine)) is not None
        }  # fmt: skip
        self.outermost = {kind for kind, _ in self.measures}

    @abstractmethod
    def value(self, node: exp.Expr | None) -> str:
        """What an expression gives."""

    @abstractmethod
    def condition(self, node: exp.Expr) -> str:
        """What rows must meet."""

    def say(self, key: str, **given: str) -> str:
        """A phrase with its gaps filled."""
        return self.words[key].format(**given)

    def listed(self, items: Iterable[str]) -> str:
        """a, b and c."""
        found = list(items)
        if len(found) < 2:
            return "".join(found)
        return self.say("list", first=", ".join(found[:-1]), last=found[-1])

    def letter(self, node: exp.Expr) -> str:
        """The letter of a query within the statement, which is told later."""
        number = sum(name in ascii_uppercase for name, _ in self.inner)
        name = ascii_uppercase[number] if number < 26 else f"Z{number}"
        self.inner.append((name, node))
        return name

    def literal(self, node: exp.Expr, ref: Ref | None) -> str:
        """A value with what it means where it is a code."""
        if ref is None or not isinstance(node, exp.Literal | exp.Boolean):
            return self.value(node)
        about = self.notes.of(ref.table.name).columns.get(ref.column.name)
        text = str(node.this)
        meaning = about.codes.get(text) if about is not None else None
        said = self.value(node)
        return f"{said} ({meaning})" if meaning and meaning != text else said

    def ref(self, ref: Ref) -> str:
        """A column, with its table when there are several."""
        column = ref.column.name.replace("_", " ")
        return self.say("of", column=column, table=ref.table.name) if self.several else column

    def column(self, node: exp.Expr) -> str:
        """A column as it stands there; by its alias when its table is read twice."""
        ref = self.statement.ref(node)
        if ref is None:
            return node.name.replace("_", " ")
        twice = sum(t is ref.table for _, t in self.statement.names.tables) > 1
        if twice and isinstance(node, exp.Column) and node.table and node.table.casefold() != ref.table.name.casefold():
            return self.say("of", column=ref.column.name.replace("_", " "), table=node.table)
        return self.ref(ref)

    def verbatim(self, node: exp.Expr) -> str:
        """A part that has no words of its own, as it is written."""
        return self.say("verbatim", sql=written(node))


def written(node: object) -> str:
    """SQL of a node, or of several."""
    nodes = node if isinstance(node, list) else [node]
    return ", ".join(n.sql(comments=False) if isinstance(n, exp.Expr) else str(n) for n in nodes)
