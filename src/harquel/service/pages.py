"""Cursor pages, newest first: {"items": [...], "next": cursor or null}."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from django.db.models import Model, QuerySet

from harquel.contract.queries import PageQuery
from harquel.service.errors import ProblemError

USUAL, MOST = 50, 200
T = TypeVar("T")


def whole_number(text: str) -> int | None:
    """A number of up to 15 plain digits; None for anything else."""
    return int(text) if text.isascii() and text.isdecimal() and len(text) <= 15 else None


def page(asked: PageQuery, found: QuerySet[Any], shape: Callable[[Any], T]) -> tuple[list[T], str | None]:
    """One page by primary key, and the cursor of the next. Raises ProblemError for what makes no sense."""
    limit = whole_number(asked.limit) if asked.limit is not None else USUAL
    cursor = whole_number(asked.cursor) if asked.cursor is not None else None
    if limit is None or not 1 <= limit <= MOST or (asked.cursor is not None and cursor is None):
        raise ProblemError(422, "invalid-page", "problem-invalid-page", most=MOST)
    if cursor is not None:
        found = found.filter(pk__lt=cursor)
    rows: list[Model] = list(found.order_by("-pk")[: limit + 1])
    more = len(rows) > limit
    rows = rows[:limit]
    return [shape(r) for r in rows], str(rows[-1].pk) if more else None
