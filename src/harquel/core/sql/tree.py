"""Text to tree and back, strictly: what the library cannot carry over is an error, never a guess."""

from __future__ import annotations

import logging
import re

from sqlglot import Dialect, exp
from sqlglot.errors import ErrorLevel, SqlglotError
from sqlglot.tokenizer_core import TokenType
from sqlglot.tokens import Tokenizer

from harquel.core.sql.dialects import DIALECTS

# The library logs a warning for each statement that it keeps as opaque text; we refuse those anyway.
logging.getLogger("sqlglot").setLevel(logging.ERROR)


class ParseFault(Exception):
    """The text is not SQL that we can read; start and end are code points of it, where known."""

    def __init__(self, message: str, start: int | None = None, end: int | None = None) -> None:
        super().__init__(message)
        self.start, self.end = start, end


def parse(text: str, engine: str) -> list[exp.Expr]:
    """The statements in a text, in order, without empty ones. Raises ParseFault."""
    try:
        trees = DIALECTS[engine].read(text)
    except SqlglotError as error:
        details = getattr(error, "errors", None) or [{}]
        first = details[0]
        what = first.get("description") or str(error).splitlines()[0]
        start = _offset(text, first.get("line"), first.get("col"), first.get("highlight"))
        end = start + len(first.get("highlight") or "") if start is not None else None
        raise ParseFault(what, start, end) from error
    except RecursionError as error:
        raise ParseFault("it is nested too deeply") from error
    return [tree for tree in trees if tree is not None and not isinstance(tree, exp.Semicolon)]


def _offset(text: str, line: int | None, col: int | None, highlight: str | None) -> int | None:
    """The library counts columns to the end of a token; we point at its start."""
    if line is None or col is None:
        return None
    before = sum(len(part) + 1 for part in text.split("\n")[: line - 1])
    return max(0, min(len(text), before + col - len(highlight or "")))


def render(tree: exp.Expr, engine: str, pretty: bool = False) -> str:
    """Our own text for a tree, without comments. Raises ParseFault when the library objects."""
    try:
        return tree.sql(
            dialect=DIALECTS[engine].library, comments=False, unsupported_level=ErrorLevel.RAISE, pretty=pretty
        )
    except (SqlglotError, ValueError) as error:
        raise ParseFault(f"it cannot be written for {engine}: {error}") from error


_PLAIN = re.compile(r"[a-z_][a-z0-9_]*\Z")
_WORDS = frozenset(word for text in Tokenizer.KEYWORDS for word in text.split())


def identifier(name: str) -> exp.Identifier:
    """A name for the tree, quoted unless it is plainly a name in every dialect."""
    return exp.to_identifier(name, quoted=not _is_plain(name))


def quoted(name: str, engine: str) -> str:
    """A name as it is written in the engine's SQL: quoted only where it must be."""
    if _is_plain(name):
        return name
    return DIALECTS[engine].quoted(name)


def _is_plain(name: str) -> bool:
    return _PLAIN.match(name) is not None and name.upper() not in _WORDS


_TEXTS = (TokenType.STRING, TokenType.BYTE_STRING, TokenType.NATIONAL_STRING, TokenType.HEREDOC_STRING)


def strings(text: str, engine: str) -> set[str]:
    """The texts that a statement holds, folded; empty ones left out. Raises ParseFault."""
    return strings_and_literals(text, engine)[0]


def strings_and_literals(text: str, engine: str) -> tuple[set[str], set[str]]:
    """The same, and the texts and numbers together. Raises ParseFault."""
    try:
        tokens = Dialect.get_or_raise(DIALECTS[engine].library).tokenize(text)
    except SqlglotError as error:
        raise ParseFault(str(error).splitlines()[0]) from error
    texts = {t.text.casefold() for t in tokens if t.token_type in _TEXTS and t.text}
    return texts, texts | {t.text.casefold() for t in tokens if t.token_type == TokenType.NUMBER and t.text}


def place(node: exp.Expr) -> tuple[int | None, int | None]:
    """Where a node stands in the text it was parsed from, as code points, where the parser kept it."""
    for candidate in node.find_all(exp.Identifier, bfs=False):
        start, end = candidate.meta.get("start"), candidate.meta.get("end")
        if start is not None and end is not None:
            return int(start), int(end) + 1
    start, end = node.meta.get("start"), node.meta.get("end")
    return (int(start), int(end) + 1) if start is not None and end is not None else (None, None)


def table_names(sql: str, engine: str) -> tuple[str, ...]:
    """The tables that one statement reads, as written, sorted. Raises ParseFault, ValueError for several."""
    (tree,) = parse(sql, engine)
    ctes = {c.alias.casefold() for c in tree.find_all(exp.CTE)}
    found = {
        f"{t.db}.{t.name}" if t.db and t.db not in ("main", "public") else t.name
        for t in tree.find_all(exp.Table)
        if t.name.casefold() not in ctes
    }
    return tuple(sorted(found))


def aliases(tree: exp.Expr) -> dict[str, str]:
    """Alias or name, folded, to the table it stands for, over all of a statement."""
    return {t.alias_or_name.casefold(): t.name for t in tree.find_all(exp.Table)}
