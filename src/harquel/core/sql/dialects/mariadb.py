"""MariaDB's."""

from __future__ import annotations

from typing import Final

from sqlglot import Dialect, exp
from sqlglot.dialects.mysql import MySQL
from sqlglot.errors import ParseError
from sqlglot.tokenizer_core import Token, TokenType

from .dialect import SqlDialect
from .reading import KNOWN

_CONDITIONS: Final = (exp.Predicate, exp.Connector, exp.Not, exp.Between, exp.In, exp.Exists, exp.Boolean)
_ALL_ROWS: Final = "18446744073709551615"
_UNITS: Final = frozenset("MICROSECOND SECOND MINUTE HOUR DAY WEEK MONTH QUARTER YEAR".split())


def _with_pipes(library: Dialect, tokens: list[Token], text: str) -> list[exp.Expr | None]:
    """`||` is OR between conditions, as in a session that nobody has set otherwise, and else joins texts.

    Nobody writes it between texts to mean OR. Where it could be both, the statement is not read.
    """
    trees = library.parser().parse(tokens, text)
    ors = [node for tree in trees if tree is not None for node in tree.find_all(exp.Or)]
    sides = [side.unnest() for node in ors for side in (node.left, node.right)]
    if all(isinstance(side, _CONDITIONS) for side in sides):
        return trees
    if any(t.token_type == TokenType.PIPE for t in tokens):
        raise ParseError("the operator | is not read beside ||")
    for token in tokens:
        if token.token_type == TokenType.DPIPE:
            token.token_type = TokenType.PIPE
    trees = library.parser().parse(tokens, text)
    for tree in trees:
        for node in list(tree.find_all(exp.BitwiseOr)) if tree is not None else ():
            if any(isinstance(side.unnest(), _CONDITIONS) for side in (node.left, node.right)):
                raise ParseError("|| could mean OR or joining texts here: write OR, or CONCAT()")
    return [tree.transform(_joined, copy=False) if tree is not None else None for tree in trees]


def _joined(node: exp.Expr) -> exp.Expr:
    if not isinstance(node, exp.BitwiseOr):
        return node
    return exp.Anonymous(this="CONCAT", expressions=list(node.flatten()))


def _matches(node: exp.Expr) -> exp.Expr:
    """The library would write a function that MariaDB does not have."""
    found = exp.Anonymous(this="REGEXP_INSTR", expressions=[node.this, node.expression])
    return exp.GT(this=found, expression=exp.Literal.number(0))


def _strung(node: exp.Expr) -> exp.Expr:
    return exp.Anonymous(this="CONCAT", expressions=node.expressions)


def _located(node: exp.Expr) -> exp.Expr:
    return exp.Anonymous(this="LOCATE", expressions=[node.args["substr"], node.this])


def _separated(node: exp.Expr) -> exp.Expr:
    """The separator that is meant when none is written."""
    if node.args.get("separator") is None:
        node.set("separator", exp.Literal.string(","))
    return node


def _unit(node: exp.Expr) -> exp.Expr:
    """The unit of a difference of times is a word, not a column."""
    if str(node.this).upper() in ("TIMESTAMPDIFF", "TIMESTAMPADD") and node.expressions:
        first = node.expressions[0]
        if isinstance(first, exp.Column) and not first.table and first.name.upper() in _UNITS:
            first.replace(exp.Var(this=first.name.upper()))
    return node


class MariaDbDialect(SqlDialect):
    """MariaDB's."""

    name, library, quote = "mariadb", MySQL, "`"
    shaped = KNOWN | frozenset("CONVERT EXTRACT POSITION SUBSTRING TRIM PERCENTILE_CONT".split())
    changes = {
        exp.RegexpLike: _matches, exp.Concat: _strung, exp.StrPosition: _located, exp.GroupConcat: _separated,
        exp.Anonymous: _unit,
    }  # fmt: skip
    cuts = (exp.IntDiv,)
    seconds = "TIMESTAMPDIFF(SECOND, earlier, later)"
    parts = {
        "weekday": "DAYOFWEEK(at) - 1", "hour": "HOUR(at)", "day": "DATE(at)",
        "clock": "DATE_FORMAT(at, '%H:%i')",
        "week": "DATE_SUB(DATE(at), INTERVAL WEEKDAY(at) DAY)", "quarter": "CONCAT(YEAR(at), '-Q', QUARTER(at))",
        "fiscal year": "CONCAT(YEAR(at), '/', DATE_FORMAT(DATE_ADD(at, INTERVAL 1 YEAR), '%y'))",
        "fiscal quarter": "CONCAT(YEAR(at), '/', DATE_FORMAT(DATE_ADD(at, INTERVAL 1 YEAR), '%y'), '-Q', QUARTER(at))",
    }  # fmt: skip
    earlier = "DATE_SUB(DATE_FORMAT(at, '%Y-%m-01'), INTERVAL {months} MONTH)"

    def week_from(self, first: int) -> str:
        """See SqlDialect."""
        return f"DATE_SUB(DATE(at), INTERVAL MOD(WEEKDAY(at) + {7 - first}, 7) DAY)"

    def accept(self, tokens: list[Token]) -> None:
        """See SqlDialect: some comments are carried out."""
        if any(c.lstrip().startswith(("!", "M!", "m!")) for t in tokens for c in t.comments):
            raise ParseError("it holds a comment that MariaDB would carry out")

    def trees(self, library: Dialect, tokens: list[Token], text: str) -> list[exp.Expr | None]:
        """See SqlDialect: `||` is read as it is meant."""
        if any(t.token_type == TokenType.DPIPE for t in tokens):
            return _with_pipes(library, tokens, text)
        return super().trees(library, tokens, text)

    def wall(self, select: exp.Select) -> None:
        """See SqlDialect: here -1 is no limit."""
        select.set("limit", exp.Limit(expression=exp.Literal.number(_ALL_ROWS)))

    def same(self, again: exp.Expr, rewritten: exp.Expr) -> bool:
        """See SqlDialect: the library quotes names that only MySQL reserves."""
        if again == rewritten:
            return True
        bare = [tree.copy() for tree in (again, rewritten)]
        for tree in bare:
            for name in tree.find_all(exp.Identifier):
                name.set("quoted", False)
        return bare[0] == bare[1]
