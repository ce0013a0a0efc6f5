"""Errors on the wire: RFC 9457 problem details, with a hint that says what to do."""

from __future__ import annotations

from .base import Shape


class Problem(Shape):
    """`type` is stable and ends in the problem's name; `errors` names the fields at fault."""

    type: str
    """A stable address that ends in the problem's name."""
    title: str
    """What is wrong, in a sentence."""
    status: int
    """The status code of the reply."""
    detail: str = ""
    """More about it."""
    hint: str = ""
    """What to do about it."""
    errors: list[dict[str, str]] = []
    """The fields at fault, each with what is wrong with it."""
