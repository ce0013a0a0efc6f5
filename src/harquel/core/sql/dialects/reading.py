"""How the SQL of the three engines is read: the library's parser, with functions left as they were written.

The library knows hundreds of functions and writes many of them in words of its own, which can mean something
else to the database, or to no database at all (docs/engines.md). So the names of functions are hidden from it,
but for the few that we look into ourselves: a function keeps its name and its arguments, and the guard allows
it by name. Likewise `||` on MariaDB, and decimal types on SQLite.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Any, ClassVar, Final, Protocol

from sqlglot import Dialect, exp
from sqlglot.errors import ParseError
from sqlglot.tokenizer_core import Token, TokenType

Change = Callable[[exp.Expr], exp.Expr]
KNOWN: Final = frozenset("ABS AVG COALESCE COUNT MAX MIN SUM CAST GROUP_CONCAT".split())
"""Those that we look into, or whose arguments are not a plain list."""
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
MOST_TOKENS: Final = 12_000
"""Words and signs of a text; what the guard lets through has a few thousand at most."""


class _Place(dict[str, Any]):
    """Where a part stands in its text. Copies of a tree share it: to copy each took longer than the tree itself."""

    def __deepcopy__(self, _: object) -> _Place:
        return self


class Reads(Protocol):
    """What of a dialect reading needs."""

    library: ClassVar[type[Dialect]]
    shaped: ClassVar[frozenset[str]]

    def accept(self, tokens: list[Token]) -> None:
        """Raises ParseError."""

    def trees(self, library: Dialect, tokens: list[Token], text: str) -> list[exp.Expr | None]:
        """The library's reading."""

    def change(self, kind: type[exp.Expr]) -> Change | None:
        """How a part of that kind is kept."""


def parsed(dialect: Reads, text: str) -> list[exp.Expr | None]:
    """The statements of a text. Raises the library's errors."""
    library = dialect.library()
    if _MARK in text:
        raise ParseError("it holds a character that no statement needs")
    tokens = library.tokenize(text)
    if len(tokens) > MOST_TOKENS:
        raise ParseError(f"it has more than {MOST_TOKENS:,} words and signs")
    dialect.accept(tokens)
    for token in tokens:
        if token.token_type in (TokenType.HEREDOC_STRING, TokenType.RAW_STRING):
            # A text between dollar signs is a text.
            token.token_type = TokenType.STRING
    _hide_functions(tokens, dialect.shaped)
    return [_restored(tree, dialect) for tree in dialect.trees(library, tokens, text)]


def _hide_functions(tokens: list[Token], shaped: frozenset[str]) -> None:
    """Marks the names of functions, so that the library takes none of them for one that it knows."""
    before: Token | None = None
    for token, after in pairwise(tokens):
        if token.token_type == TokenType.SOME:
            token.text, token.token_type = "ANY", TokenType.ANY
        if after.token_type == TokenType.L_PAREN and (before is None or before.token_type not in _NOT_CALLED):
            name = token.text.upper()
            plain = token.token_type == TokenType.VAR and name not in shaped and name not in _SYNTAX
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


def _restored(tree: exp.Expr | None, dialect: Reads) -> exp.Expr | None:
    """Names without the mark; what the library would write as something else, as it was."""
    if tree is None:
        return None
    if isinstance(tree, exp.Values) and tree.args.get("alias") is None:
        # A list of rows by itself is all rows of it.
        tree.set("alias", exp.TableAlias(this=exp.to_identifier("listed")))
        tree = exp.Select().select("*").from_(tree)
    for node in list(tree.walk()):
        if node._meta:
            node._meta = _Place(node._meta)
        if isinstance(node, exp.Anonymous | exp.Identifier) and str(node.this).startswith(_MARK):
            node.set("this", str(node.this).removeprefix(_MARK))
        if (change := dialect.change(type(node))) is not None:
            made = change(node)
            if made is not node:
                if node is tree:
                    tree = made
                node.replace(made)
    return tree


def _sounding(node: exp.Expr) -> exp.Expr:
    """MariaDB's SOUNDS LIKE is read as its function."""
    return exp.Anonymous(this="SOUNDEX", expressions=[node.this])


def _frame(node: exp.Expr) -> exp.Expr:
    """A frame with a start only ends at the current row, and is written so."""
    if node.args.get("start") is not None and node.args.get("end") is None:
        node.set("end", "CURRENT ROW")
    return node


def _power(node: exp.Expr) -> exp.Expr:
    return exp.Anonymous(this="POWER", expressions=[node.this, node.expression])


def _span(node: exp.Expr) -> exp.Expr:
    """A negative span is written as a text, as the library does."""
    if isinstance(node.this, exp.Neg) and isinstance(node.this.this, exp.Literal):
        node.set("this", exp.Literal.string(f"-{node.this.this.this}"))
    return node


def _fetch(node: exp.Expr) -> exp.Expr:
    """FETCH FIRST n ROWS ONLY is LIMIT n; with ties or per cent it is something else, and stays."""
    options = node.args.get("limit_options")
    if options is not None and (options.args.get("with_ties") or options.args.get("percent")):
        return node
    return exp.Limit(expression=node.args.get("count") or exp.Literal.number(1))


def _text(node: exp.Expr) -> exp.Expr:
    """E'…' and N'…': the tokenizer has resolved what was escaped, and a plain text says the same."""
    return exp.Literal.string(str(node.this))


COMMON: Final[dict[type[exp.Expr], Change]] = {
    exp.WindowSpec: _frame, exp.Interval: _span, exp.Pow: _power, exp.Fetch: _fetch, exp.ByteString: _text,
    exp.National: _text, exp.Soundex: _sounding,
}  # fmt: skip
"""What every dialect keeps as it was written."""
