"""What every dialect has; the others say where theirs is another."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import ClassVar

from sqlglot import Dialect, exp
from sqlglot.tokenizer_core import Token

from .reading import COMMON, KNOWN, Change, parsed


class SqlDialect:
    """One an engine. `library` is the SQL library's own."""

    name: ClassVar[str]
    library: ClassVar[type[Dialect]]
    quote: ClassVar[str] = '"'
    shaped: ClassVar[frozenset[str]] = KNOWN
    """Functions that are read as more than a name with a list of arguments."""
    changes: ClassVar[Mapping[type[exp.Expr], Change]] = {}
    """What the library would write as something else than it was, and how it is kept."""
    spells_schemas: ClassVar[bool] = False
    """Whether there is a path along which names are looked up, so that a bare name could mean another table."""
    cuts: ClassVar[tuple[type[exp.Expr], ...]] = (exp.Div, exp.IntDiv)
    """Divisions that cut off the fraction of whole numbers."""
    booleans_are_whole: ClassVar[bool] = False
    lists: ClassVar[bool] = False
    """Whether there are types that are lists of plain values."""
    views_for_one: ClassVar[bool] = False
    """Whether a view can be made for one statement alone."""
    typed_nulls: ClassVar[bool] = False
    """Whether a NULL without a type is a text to whatever stands above it."""

    seconds: ClassVar[str]
    """The seconds from `earlier` to `later`, both times or days."""
    parts: ClassVar[Mapping[str, str]]
    """Of a time `at`: its weekday (0 is Sunday) and its hour, whole numbers, its day, and the first of its week, which
    begins on Monday. A fiscal year is named by both years that it lies in, of a time that was moved into them.
    """
    earlier: ClassVar[str]
    """The month of a time `at`, {months} months earlier."""

    def read(self, text: str) -> list[exp.Expr | None]:
        """The statements of a text. Raises the library's errors."""
        return parsed(self, text)

    def accept(self, tokens: list[Token]) -> None:
        """Raises ParseError for what must not even be read."""

    def trees(self, library: Dialect, tokens: list[Token], text: str) -> list[exp.Expr | None]:
        """The library's reading."""
        return library.parser().parse(tokens, text)

    def quoted(self, name: str) -> str:
        """A name between the marks that it cannot close."""
        return self.quote + name.replace(self.quote, self.quote * 2) + self.quote

    def week(self, first: int) -> str:
        """The first day of the week of a time `at`, where weeks begin on that weekday, 0 is Monday."""
        return self.parts["week"] if first == 0 else self.week_from(first)

    def week_from(self, first: int) -> str:
        """The same for weeks that begin on another day than Monday."""
        raise NotImplementedError

    def wall(self, select: exp.Select) -> None:
        """Keeps conditions from outside from being looked at before those within: all rows, but as one step."""
        select.set("limit", exp.Limit(expression=exp.Neg(this=exp.Literal.number(1))))

    def same(self, again: exp.Expr, rewritten: exp.Expr) -> bool:
        """Whether what was written is read as it was meant."""
        return again == rewritten

    def change(self, kind: type[exp.Expr]) -> Callable[[exp.Expr], exp.Expr] | None:
        """How a part of that kind is kept."""
        return self.changes.get(kind) or COMMON.get(kind)
