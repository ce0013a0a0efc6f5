"""How the SQL of the three engines is read: the library's parser, with functions left as they were written.

The library knows hundreds of functions and writes many of them in words of its own, which can mean something
else to the database, or to no database at all (docs/engines.md). So the names of functions are hidden from it,
but for the few that we look into ourselves: a function keeps its name and its arguments, and the guard allows
it by name. Likewise `||` on MariaDB, and decimal types on SQLite.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Final

from sqlglot import Dialect, exp
from sqlglot.dialects.mysql import MySQL
from sqlglot.dialects.postgres import Postgres
from sqlglot.dialects.sqlite import SQLite
from sqlglot.errors import ParseError
from sqlglot.tokenizer_core import Token, TokenType

DIALECTS: Final[dict[str, type[Dialect]]] = {"sqlite": SQLite, "postgresql": Postgres, "mariadb": MySQL}
"""Engine name to the SQL library's dialect."""

# Those that we look into, or whose arguments are not a plain list.
_KNOWN: Final = frozenset("ABS AVG COALESCE COUNT MAX MIN SUM CAST GROUP_CONCAT".split())
_SHAPED: Final = {
    "sqlite": _KNOWN,
    "postgresql": _KNOWN
    | frozenset("EXTRACT OVERLAY POSITION STRING_AGG SUBSTRING TRIM PERCENTILE_CONT PERCENTILE_DISC MODE".split()),
    "mariadb": _KNOWN | frozenset("CONVERT EXTRACT POSITION SUBSTRING TRIM PERCENTILE_CONT".split()),
}
# Functions whose names are words of the language to the library's tokenizer.
_WORDS: Final = frozenset(
    (
        "LEFT RIGHT REPLACE DATE TIME TIMESTAMP DATETIME YEAR FORMAT INSERT MOD IF CHAR TRUNCATE TIMESTAMPDIFF "
        "INTERVAL RANK DENSE_RANK ROW_NUMBER GLOB LIKE SIGN EVERY MID "
        "UTC_TIMESTAMP UTC_DATE UTC_TIME LOCALTIME LOCALTIMESTAMP"
    ).split()
)
_SYNTAX: Final = frozenset("GROUP OVER FILTER SETS OVERLAPS COLUMNS PARTITION MATERIALIZED".split())
_NOT_CALLED: Final = frozenset({TokenType.ALIAS, TokenType.DCOLON, TokenType.DOT})
# A character of the private use area: no statement holds it.
_MARK: Final = "\ue000"
_CONDITIONS: Final = (exp.Predicate, exp.Connector, exp.Not, exp.Between, exp.In, exp.Exists, exp.Boolean)


MOST_TOKENS: Final = 12_000
"""Words and signs of a text; what the guard lets through has a few thousand at most."""


def read(text: str, engine: str) -> list[exp.Expr | None]:
    """The statements of a text. Raises the library's errors."""
    dialect = DIALECTS[engine]()
    if _MARK in text:
        raise ParseError("it holds a character that no statement needs")
    tokens = dialect.tokenize(text)
    if len(tokens) > MOST_TOKENS:
        raise ParseError(f"it has more than {MOST_TOKENS:,} words and signs")
    if engine == "mariadb" and any(c.lstrip().startswith(("!", "M!", "m!")) for t in tokens for c in t.comments):
        raise ParseError("it holds a comment that MariaDB would carry out")
    for token in tokens:
        if token.token_type in (TokenType.HEREDOC_STRING, TokenType.RAW_STRING):
            # A text between dollar signs is a text.
            token.token_type = TokenType.STRING
    _hide_functions(tokens, engine)
    if engine == "mariadb" and any(t.token_type == TokenType.DPIPE for t in tokens):
        return [_restored(tree, engine) for tree in _with_pipes(dialect, tokens, text)]
    return [_restored(tree, engine) for tree in dialect.parser().parse(tokens, text)]


def _hide_functions(tokens: list[Token], engine: str) -> None:
    """Marks the names of functions, so that the library takes none of them for one that it knows."""
    before: Token | None = None
    for token, after in pairwise(tokens):
        if token.token_type == TokenType.SOME:
            token.text, token.token_type = "ANY", TokenType.ANY
        if after.token_type == TokenType.L_PAREN and (before is None or before.token_type not in _NOT_CALLED):
            name = token.text.upper()
            plain = token.token_type == TokenType.VAR and name not in _SHAPED[engine] and name not in _SYNTAX
            if plain or (name in _WORDS and token.token_type != TokenType.IDENTIFIER and not _operator(token, before)):
                token.text, token.token_type = _MARK + token.text, TokenType.VAR
        before = token


def _operator(token: Token, before: Token | None) -> bool:
    """Whether a word that could be a function stands between two values: x LIKE (y), 7 MOD (2), + INTERVAL (1) DAY."""
    if token.text.upper() == "INTERVAL":
        return before is not None and before.token_type in (TokenType.PLUS, TokenType.DASH, TokenType.COMMA)
    return (
        token.text.upper() in ("LIKE", "GLOB", "MOD")
        and before is not None
        and before.token_type in (TokenType.VAR, TokenType.IDENTIFIER, TokenType.R_PAREN, TokenType.STRING,
                                  TokenType.NUMBER, TokenType.NOT)
    )  # fmt: skip


def _with_pipes(dialect: Dialect, tokens: list[Token], text: str) -> list[exp.Expr | None]:
    """MariaDB: `||` is OR between conditions, as in a session that nobody has set otherwise, and else joins texts.

    Nobody writes it between texts to mean OR. Where it could be both, the statement is not read.
    """
    trees = dialect.parser().parse(tokens, text)
    ors = [node for tree in trees if tree is not None for node in tree.find_all(exp.Or)]
    sides = [side.unnest() for node in ors for side in (node.left, node.right)]
    if all(isinstance(side, _CONDITIONS) for side in sides):
        return trees
    if any(t.token_type == TokenType.PIPE for t in tokens):
        raise ParseError("the operator | is not read beside ||")
    for token in tokens:
        if token.token_type == TokenType.DPIPE:
            token.token_type = TokenType.PIPE
    trees = dialect.parser().parse(tokens, text)
    for tree in trees:
        for node in list(tree.find_all(exp.BitwiseOr)) if tree is not None else ():
            if any(isinstance(side.unnest(), _CONDITIONS) for side in (node.left, node.right)):
                raise ParseError("|| could mean OR or joining texts here: write OR, or CONCAT()")
    return [tree.transform(_joined, copy=False) if tree is not None else None for tree in trees]


def _joined(node: exp.Expr) -> exp.Expr:
    if not isinstance(node, exp.BitwiseOr):
        return node
    return exp.Anonymous(this="CONCAT", expressions=list(node.flatten()))


def _restored(tree: exp.Expr | None, engine: str) -> exp.Expr | None:
    """Names without the mark; what the library would write as something else, as it was."""
    if tree is None:
        return None
    if isinstance(tree, exp.Values) and tree.args.get("alias") is None:
        # A list of rows by itself is all rows of it.
        tree.set("alias", exp.TableAlias(this=exp.to_identifier("listed")))
        tree = exp.Select().select("*").from_(tree)
    for node in list(tree.walk()):
        if isinstance(node, exp.Anonymous | exp.Identifier) and str(node.this).startswith(_MARK):
            node.set("this", str(node.this).removeprefix(_MARK))
        if (change := _CHANGES.get(type(node))) is not None:
            made = change(node, engine)
            if made is not node:
                if node is tree:
                    tree = made
                node.replace(made)
    return tree


def _sounding(node: exp.Expr, _: str) -> exp.Expr:
    """MariaDB's SOUNDS LIKE is read as its function."""
    return exp.Anonymous(this="SOUNDEX", expressions=[node.this])


def _affinity(node: exp.Expr, engine: str) -> exp.Expr:
    """On SQLite a type is its affinity, whatever the width; for decimals the library would write REAL."""
    if engine != "sqlite":
        return node
    if node.this == exp.DataType.Type.DECIMAL:
        return exp.DataType(this=exp.DataType.Type.USERDEFINED, kind="NUMERIC")
    if node.this in exp.DataType.TEXT_TYPES:
        return exp.DataType(this=exp.DataType.Type.TEXT)
    return node


def _frame(node: exp.Expr, _: str) -> exp.Expr:
    """A frame with a start only ends at the current row, and is written so."""
    if node.args.get("start") is not None and node.args.get("end") is None:
        node.set("end", "CURRENT ROW")
    return node


def _power(node: exp.Expr, _: str) -> exp.Expr:
    return exp.Anonymous(this="POWER", expressions=[node.this, node.expression])


def _matches(node: exp.Expr, engine: str) -> exp.Expr:
    """The library would write a function that MariaDB does not have."""
    if engine != "mariadb":
        return node
    found = exp.Anonymous(this="REGEXP_INSTR", expressions=[node.this, node.expression])
    return exp.GT(this=found, expression=exp.Literal.number(0))


def _span(node: exp.Expr, _: str) -> exp.Expr:
    """A negative span is written as a text, as the library does."""
    if isinstance(node.this, exp.Neg) and isinstance(node.this.this, exp.Literal):
        node.set("this", exp.Literal.string(f"-{node.this.this.this}"))
    return node


def _fetch(node: exp.Expr, _: str) -> exp.Expr:
    """FETCH FIRST n ROWS ONLY is LIMIT n; with ties or per cent it is something else, and stays."""
    options = node.args.get("limit_options")
    if options is not None and (options.args.get("with_ties") or options.args.get("percent")):
        return node
    return exp.Limit(expression=node.args.get("count") or exp.Literal.number(1))


def _strung(node: exp.Expr, engine: str) -> exp.Expr:
    if engine != "mariadb":
        return node
    return exp.Anonymous(this="CONCAT", expressions=node.expressions)


def _text(node: exp.Expr, _: str) -> exp.Expr:
    """E'…' and N'…': the tokenizer has resolved what was escaped, and a plain text says the same."""
    return exp.Literal.string(str(node.this))


def _located(node: exp.Expr, engine: str) -> exp.Expr:
    if engine != "mariadb":
        return node
    return exp.Anonymous(this="LOCATE", expressions=[node.args["substr"], node.this])


def _separated(node: exp.Expr, engine: str) -> exp.Expr:
    """The separator that is meant when none is written."""
    if engine == "mariadb" and node.args.get("separator") is None:
        node.set("separator", exp.Literal.string(","))
    return node


def _unit(node: exp.Expr, engine: str) -> exp.Expr:
    """The unit of a difference of times is a word, not a column."""
    if engine == "mariadb" and str(node.this).upper() in ("TIMESTAMPDIFF", "TIMESTAMPADD") and node.expressions:
        first = node.expressions[0]
        if isinstance(first, exp.Column) and not first.table and first.name.upper() in _UNITS:
            first.replace(exp.Var(this=first.name.upper()))
    return node


_UNITS: Final = frozenset("MICROSECOND SECOND MINUTE HOUR DAY WEEK MONTH QUARTER YEAR".split())
_CHANGES: Final[dict[type[exp.Expr], Callable[[exp.Expr, str], exp.Expr]]] = {
    exp.DataType: _affinity, exp.WindowSpec: _frame, exp.RegexpLike: _matches, exp.Interval: _span, exp.Concat: _strung,
    exp.Pow: _power, exp.Fetch: _fetch, exp.ByteString: _text, exp.National: _text, exp.StrPosition: _located,
    exp.Anonymous: _unit, exp.GroupConcat: _separated, exp.Soundex: _sounding,
}  # fmt: skip
