"""A whole result on its way out: from the lines that are kept of it, a piece at a time, whatever there is of it."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from typing import Final, Literal

from harquel.contract import ResultColumn

from .delimited import BOM, line_of
from .file import Pieces

WholeForm = Literal["csv", "jsonl"]
_PIECE: Final = 128 * 1024
"""Bytes that are sent together, about."""


def as_pieces(name: str, form: WholeForm, columns: Sequence[ResultColumn], lines: Iterable[bytes]) -> Pieces:
    """As CSV like any other answer, or as JSON Lines: the names of the columns, then an array for each row."""
    if form == "csv":
        return Pieces(f"{name}.csv", "text/csv; charset=utf-8", _together(_delimited(columns, lines)))
    return Pieces(f"{name}.jsonl", "application/jsonl", _together(_as_kept(columns, lines)))


def _delimited(columns: Sequence[ResultColumn], lines: Iterable[bytes]) -> Iterator[bytes]:
    head, line = line_of(columns)
    yield BOM + head
    for kept in lines:
        yield line(json.loads(kept))


def _as_kept(columns: Sequence[ResultColumn], lines: Iterable[bytes]) -> Iterator[bytes]:
    yield json.dumps([column.name for column in columns]).encode() + b"\n"
    yield from lines


def _together(small: Iterable[bytes]) -> Iterator[bytes]:
    gathered: list[bytes] = []
    size = 0
    for piece in small:
        gathered.append(piece)
        size += len(piece)
        if size >= _PIECE:
            yield b"".join(gathered)
            gathered, size = [], 0
    if gathered:
        yield b"".join(gathered)
