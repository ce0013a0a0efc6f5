"""Cursor pages, newest first: {"items": [...], "next": cursor or null}."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db.models import Model, QuerySet
from rest_framework.request import Request

from harquel.service.problems import ProblemError

USUAL, MOST = 50, 200


def page(request: Request, found: QuerySet[Any], shape: Callable[[Any], Any]) -> dict[str, Any]:
    """One page by primary key. Raises ProblemError for a cursor or limit that makes no sense."""
    limit, cursor = request.query_params.get("limit", str(USUAL)), request.query_params.get("cursor")
    if not limit.isdigit() or not 1 <= int(limit) <= MOST or (cursor is not None and not cursor.isdigit()):
        raise ProblemError(
            422, "invalid-page", "The page cannot be read.", f"limit is 1 to {MOST}; cursor comes from “next”."
        )
    if cursor is not None:
        found = found.filter(pk__lt=int(cursor))
    rows: list[Model] = list(found.order_by("-pk")[: int(limit) + 1])
    more = len(rows) > int(limit)
    rows = rows[: int(limit)]
    return {"items": [shape(r) for r in rows], "next": str(rows[-1].pk) if more else None}
