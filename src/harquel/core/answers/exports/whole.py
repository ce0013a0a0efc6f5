"""A whole result on its way out: from the lines that are kept of it, a piece at a time, whatever there is of it."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from typing import Final, Literal

from harquel.contract import ResultColumn

from .delimited import head, lines
from .file import Pieces

WholeForm = Literal["csv", "jsonl"]
_PIECE: Final = 128 * 1024
"""Bytes that are sent together, about."""


def as_pieces(name: str, form: WholeForm, columns: Sequence[ResultColumn], kept: Iterable[bytes]) -> Pieces:
    """As CSV like any other answer, or as JSON Lines: the names of the columns, then an array for each row."""
    if form == "csv":
        return Pieces(f"{name}.csv", "text/csv; charset=utf-8", _delimited(columns, kept))
    return Pieces(f"{name}.jsonl", "application/jsonl", _as_kept(columns, kept))


def _delimited(columns: Sequence[ResultColumn], kept: Iterable[bytes]) -> Iterator[bytes]:
    yield head(columns)
    for some in _together(kept):
        yield lines(columns, json.loads(b"[" + b",".join(some) + b"]"))


def _as_kept(columns: Sequence[ResultColumn], kept: Iterable[bytes]) -> Iterator[bytes]:
    yield json.dumps([column.name for column in columns]).encode() + b"\n"
    yield from map(b"".join, _together(kept))


def _together(kept: Iterable[bytes]) -> Iterator[list[bytes]]:
    """As many lines as are sent at once."""
    some: list[bytes] = []
    size = 0
    for line in kept:
        some.append(line)
        size += len(line)
        if size >= _PIECE:
            yield some
            some, size = [], 0
    if some:
        yield some
