"""The example bank of a source: its pairs as the contract shows them, and the entry that a change leaves."""

from __future__ import annotations

from typing import Any

from harquel.contract import Examples, ExampleShape, events
from harquel.core.curation import near_duplicates
from harquel.service.access.caller import Caller
from harquel.service.errors import ProblemError
from harquel.service.ledger.append import append
from harquel.service.operations import Call

from ..live import LiveSource
from ..models import StoredExample


def bank_of(source: LiveSource) -> Examples:
    """All pairs; each with those whose question is nearly the same."""
    found = list(StoredExample.objects.filter(source=source.name).order_by("pk"))
    alike = near_duplicates([e.question for e in found])
    return Examples([_shape(e, [found[i].pk for i in alike.get(n, ())]) for n, e in enumerate(found)])


def one_of(source: LiveSource, key: int) -> ExampleShape:
    """One pair, by its number."""
    return next(e for e in bank_of(source).root if e.id == key)


def example_of(call: Call[Any, LiveSource]) -> StoredExample:
    """The pair that a call names. Raises ProblemError."""
    key, name = call.at["example_id"], call.about.name
    found = StoredExample.objects.filter(source=name, pk=key).first()
    if found is None:
        raise ProblemError(404, "unknown-example", "problem-unknown-example", key=key, source=name)
    return found


Changed = events.ExampleAdded | events.ExampleChanged | events.ExampleRemoved


def note(caller: Caller, kind: type[Changed], example: StoredExample) -> None:
    """The entry of a change. Runs inside the writer."""
    what = kind(source=example.source, example=example.pk, state=example.state)
    append(who=caller.name, what=what, texts={"question": example.question, "sql": example.sql})


def _shape(found: StoredExample, alike: list[int]) -> ExampleShape:
    return ExampleShape(
        id=found.pk, question=found.question, sql=found.sql, tags=found.tags, author=found.author,
        state=found.state, said=found.said, alike=alike, checked_at=found.checked_at,
    )  # fmt: skip
