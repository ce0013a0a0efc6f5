"""How an inquiry is kept: JSON values with a version. What an earlier version has kept is read through steps."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Final

from pydantic import TypeAdapter

from harquel.core.domain.inquiry import Inquiry
from harquel.core.errors import ConfigurationError

VERSION: Final = 2
_ADAPTER: Final = TypeAdapter(Inquiry)


def written(inquiry: Inquiry) -> dict[str, Any]:
    """As it is kept. However it ended: rows of an earlier inquiry are kept there and not here, where nobody would blank
    them.
    """
    found: dict[str, Any] = _ADAPTER.dump_python(inquiry, mode="json")
    for empty in ("between", "sight"):
        if not found[empty]:
            del found[empty]
    for passing in ("again", "earlier"):
        if getattr(inquiry, passing) is None or inquiry.state == "ended":
            # Only what is under way has one, and nobody is shown it.
            del found[passing]
    if found["redraft"] is not None and inquiry.state == "ended":
        found["redraft"] |= {"rows": None, "columns": [], "types": []}
    return {"v": VERSION, **found}


def read(record: dict[str, Any]) -> Inquiry:
    """The inverse of `written`, for records of this version and of those before it.

    Raises ConfigurationError for one of a later version, pydantic.ValidationError for what is none.
    """
    version = record.get("v", 1)
    if version > VERSION:
        raise ConfigurationError(
            f"An inquiry was kept by a newer Harquel (version {version} of its record).", "Install that one."
        )
    values = {name: value for name, value in record.items() if name != "v"}
    for step in range(version, VERSION):
        values = _STEPS[step](values)
    return _ADAPTER.validate_python(values)


def _without_chart(record: dict[str, Any]) -> dict[str, Any]:
    """From 1 to 2: a place for a chart was kept in each answer, and never filled."""
    answer = record.get("answer")
    if answer is None:
        return record
    return {**record, "answer": {name: value for name, value in answer.items() if name != "chart"}}


_STEPS: Final[dict[int, Callable[[dict[str, Any]], dict[str, Any]]]] = {1: _without_chart}
