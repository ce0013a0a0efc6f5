"""Errors on the wire: RFC 9457 problem details, with a hint that says what to do."""

from __future__ import annotations

from .base import Shape


class Problem(Shape):
    """`type` is stable and ends in the problem's name; `errors` names the fields at fault."""

    type: str
    title: str
    status: int
    detail: str = ""
    hint: str = ""
    errors: list[dict[str, str]] = []
