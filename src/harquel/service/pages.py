"""Cursor pages, newest first: {"items": [...], "next": cursor or null}."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db.models import Model, QuerySet
from rest_framework.request import Request

from harquel.service.problems import ProblemError

USUAL, MOST = 50, 200


def whole_number(text: str) -> int | None:
    """A number of up to 15 plain digits; None for anything else."""
    return int(text) if text.isascii() and text.isdecimal() and len(text) <= 15 else None


def page(request: Request, found: QuerySet[Any], shape: Callable[[Any], Any]) -> dict[str, Any]:
    """One page by primary key. Raises ProblemError for a cursor or limit that makes no sense."""
    limit = whole_number(request.query_params.get("limit", str(USUAL)))
    said = request.query_params.get("cursor")
    cursor = whole_number(said) if said is not None else None
    if limit is None or not 1 <= limit <= MOST or (said is not None and cursor is None):
        raise ProblemError(
            422, "invalid-page", "The page cannot be read.", f"limit is 1 to {MOST}; cursor comes from “next”."
        )
    if cursor is not None:
        found = found.filter(pk__lt=cursor)
    rows: list[Model] = list(found.order_by("-pk")[: limit + 1])
    more = len(rows) > limit
    rows = rows[:limit]
    return {"items": [shape(r) for r in rows], "next": str(rows[-1].pk) if more else None}
