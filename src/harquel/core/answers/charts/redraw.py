"""A kept chart, drawn otherwise: from the rows that are there, without asking the database again."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Final

from harquel.contract.charts import ChartWish
from harquel.core.answers.charts.arrange import Arranged, arranged
from harquel.core.answers.charts.seen import as_kept, as_they_are
from harquel.core.answers.charts.specification import specification
from harquel.core.answers.charts.wishes import understood
from harquel.core.domain.chart import Chart
from harquel.core.domain.inquiry import Answer
from harquel.core.language.say import say

_CHOSEN: Final = ChartWish.model_fields.keys() - {"say"}
"""What a wish chooses; it may come with more, such as the form of a file."""


@dataclass(frozen=True)
class Drawn:
    """A chart with its specification; None where these rows cannot be drawn so, and why."""

    chart: Chart | None
    spec: dict[str, Any] | None
    note: str = ""


def redrawn(answer: Answer, wish: ChartWish, language: str, dark: bool = False, width: int | None = None) -> Drawn:
    """The chart of an answer as it is wished; as it was chosen where nothing is."""
    found = _arranged(answer, wish, language)
    if found.chart is None:
        return Drawn(None, None, found.note)
    return Drawn(found.chart, specification(found.chart, answer.table, language, dark, width), found.note)


def _arranged(answer: Answer, wish: ChartWish, language: str) -> Arranged:
    kept = answer.chart
    seen = as_kept(kept) if kept is not None else as_they_are(answer.table, language)
    note = ""
    if wish.say.strip():
        said = understood(wish.say, seen)
        if said is None:
            note = say(language, "chart-unknown", wish=" ".join(wish.say.split()))
        else:
            wish = wish.model_copy(update=said.model_dump(exclude_none=True))
    chosen = wish.model_dump(exclude_none=True, include=_CHOSEN)
    if kept is None:
        found = arranged(seen, answer.table, wish, None, language)
        return Arranged(found.chart, note or found.note)
    if not chosen:
        return Arranged(kept, note)
    # What goes along is not what it is coloured by: who turns one, turns the other.
    turned = wish.along is not None and wish.along != kept.along
    before = {
        "kind": kept.kind, "along": kept.along, "colour": None if turned else kept.colour,
        "figure": kept.figures[0] if len(kept.figures) == 1 else None,
    }  # fmt: skip
    whole = ChartWish.model_validate({k: v for k, v in before.items() if v is not None} | chosen)
    found = arranged(seen, answer.table, whole, None, language)
    if found.chart is None:
        return Arranged(kept, note or found.note)
    chart = replace(found.chart, top=wish.top or found.chart.top, under_way=kept.under_way)
    return Arranged(chart, note or (found.note if wish.kind is not None else ""))
