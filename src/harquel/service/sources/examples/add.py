"""A new example."""

from __future__ import annotations

from harquel.contract import ExampleRequest, ExampleShape, events
from harquel.service.errors import ProblemError
from harquel.service.inquiries.finding import find_inquiry
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE
from ..live import LiveSource, check_examples
from ..models import StoredExample
from .bank import note, one_of


@operation(
    "example.add", takes=ExampleRequest, gives=ExampleShape, scope="steward", about=SOURCE, repeat="same",
    entries=("example-added",), rule="an inquiry that it is made of must be one's to read",
)  # fmt: skip
def add(call: Call[ExampleRequest, LiveSource]) -> ExampleShape:
    """A new pair, or one from an answered inquiry; checked at once."""
    source, request = call.about, call.asked
    question, sql = request.question, request.sql
    if request.inquiry is not None:
        inquiry = find_inquiry(request.inquiry, call.caller)
        answer = (inquiry.record or {}).get("answer")
        if inquiry.source != source.name or not answer:
            raise ProblemError(422, "not-answered", "problem-not-answered")
        question, sql = question or inquiry.question, sql or answer["sql"]
    if not (question or "").strip() or not (sql or "").strip():
        raise ProblemError(422, "pair-incomplete", "problem-pair-incomplete")
    if StoredExample.objects.filter(source=source.name, question=question).exists():
        raise ProblemError(409, "example-exists", "problem-example-exists")

    def keep() -> int:
        made = StoredExample.objects.create(
            source=source.name, question=question, sql=sql, tags=request.tags, author=call.caller.name
        )
        note(call.caller, events.ExampleAdded, made)
        return int(made.pk)

    key = runtime().writer.do(keep)
    check_examples(source, runtime().conductors, runtime().writer, (key,))
    return one_of(source, key)
