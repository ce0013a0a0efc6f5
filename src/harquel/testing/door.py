"""A test door: `python -m harquel.testing.door CONFIG` serves as `harquel serve` does, with flaws planted on purpose.

A question about one of the instants below (`as_of`) makes its conductor compute for ever, or take all memory, at that
step. No question of anybody's is about a microsecond of that year.
"""

from __future__ import annotations

import datetime as dt
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, Final
from unittest.mock import patch

from harquel.core.inquiry import conduct as conducting
from harquel.core.inquiry import course, doubt
from harquel.service.conductors import process
from harquel.service.serving import serve

_YEAR: Final = 1971
STEPS: Final = ("reply", "guard", "review", "memory", "mistake")


def instant(step: str) -> dt.datetime:
    """The instant that plants a flaw in a step."""
    return dt.datetime(_YEAR, 1, 1, microsecond=STEPS.index(step) + 1, tzinfo=dt.UTC)


def plant() -> None:
    """In a conductor, before its first job."""
    asked: list[dt.datetime] = []

    def noted(deed: Callable[..., Any]) -> Callable[..., Any]:
        def inner(inquiry: Any, source: Any, watcher: Any, now: dt.datetime, *rest: Any) -> Any:
            asked[:] = [now]
            return deed(inquiry, source, watcher, now, *rest)

        return inner

    def flawed(*given: Any) -> Callable[..., Any]:
        *steps, deed = given

        def inner(*given: Any, **named: Any) -> Any:
            for step in steps:
                if asked and asked[0] == instant(step):
                    _FLAWS[step]()
            return deed(*given, **named)

        return inner

    for module, name, with_flaws in (
        (process, "conduct", noted),
        (conducting, "take_apart", partial(flawed, "reply")),
        (course, "rule_by_terms", partial(flawed, "guard", "memory", "mistake")),
        (doubt, "review_draft", partial(flawed, "review")),
    ):
        patch.object(module, name, with_flaws(getattr(module, name))).start()


def _for_ever() -> None:
    while True:
        pass


def _everything() -> None:
    kept = []
    while True:
        kept.append(bytearray(1 << 24))


def _mistake() -> None:
    raise KeyError("planted")


_FLAWS: Final = {
    "reply": _for_ever, "guard": _for_ever, "review": _for_ever, "memory": _everything, "mistake": _mistake,
}  # fmt: skip

if __name__ == "__main__":
    serve(Path(sys.argv[1]), print, prepare="harquel.testing.door:plant")
