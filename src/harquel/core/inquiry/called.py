"""What a draft calls rows by that a control calls otherwise: other columns, or a text put together of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

from sqlglot import exp

from harquel.core.domain.catalog import Catalog
from harquel.core.inquiry.other_names import pointed_at
from harquel.core.reading import Reading
from harquel.core.reading.otherwise import Beside, prefixes
from harquel.core.review.statement import Statement

_MOST: Final = 4
"""Columns that are asked for beside those of a control."""
_MOST_PIECES: Final = 12


@dataclass(frozen=True)
class Called:
    """`columns` by their names in the reading, and the texts put together of them: a place in `columns`, or a text."""

    columns: tuple[str, ...]
    texts: tuple[tuple[int | str, ...], ...] = ()

    def beside(self, rows: Sequence[Sequence[Any]]) -> list[Beside]:
        """Each of them with its values, from the values of the columns."""
        found = [Beside(name, tuple(row[n] for row in rows)) for n, name in enumerate(self.columns)]
        for text in self.texts:
            places = [piece for piece in text if isinstance(piece, int)]
            held = tuple(_joined(text, row) for row in rows)
            found.append(Beside(self.columns[places[0]], held, tuple(self.columns[p] for p in places)))
        return found


def called(one: Statement, reading: Reading, catalog: Catalog) -> Called:
    """What a draft shows of a table from which the reading gives something else."""
    known = prefixes(reading, catalog)
    found: dict[str, int] = {}
    texts: list[tuple[int | str, ...]] = []

    def place(node: exp.Expr) -> int | None:
        ref = pointed_at(one, one.ref(node))
        if ref is None or ref.table.name not in known:
            return None
        name = f"{known[ref.table.name]}{ref.column.name}"
        return found.setdefault(name, len(found)) if name in found or len(found) < _MOST else None

    for projection in one.outer.select.expressions if one.levels else ():
        node = one.origin(projection.unalias(), one.outer)[0]
        pieces = _pieces(node)
        if len(pieces) < 2:
            place(node)
        elif len({ref.table.name for ref in one.refs(node)}) == 1:
            text = [piece if isinstance(piece, str) else place(piece) for piece in pieces]
            texts += [tuple(p for p in text if p is not None)] if None not in text else []
    return Called(tuple(found), tuple(texts))


def _pieces(node: exp.Expr) -> list[exp.Column | str]:
    """The columns and texts that a text is put together of; none where anything else goes into it."""
    node = node.unnest()
    if isinstance(node, exp.Column):
        return [node]
    if isinstance(node, exp.Literal):
        return [node.name] if node.is_string else []
    if isinstance(node, exp.DPipe):
        parts = [node.this, node.expression]
    elif isinstance(node, exp.ConcatWs):
        between, *given = node.expressions
        parts = [n for one in given for n in (between, one)][1:]
    else:
        parts = node.expressions if isinstance(node, exp.Concat) else []
    found = [_pieces(part) for part in parts[:_MOST_PIECES]]
    whole = all(found) and len(parts) <= _MOST_PIECES
    return [piece for pieces in found for piece in pieces] if whole else []


def _joined(text: Sequence[int | str], row: Sequence[Any]) -> str | None:
    held = [piece if isinstance(piece, str) else row[piece] for piece in text]
    return None if None in held else "".join(map(str, held))
