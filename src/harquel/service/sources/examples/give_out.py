"""The example bank as text."""

from __future__ import annotations

from typing import Literal

from harquel.contract import ExampleExport
from harquel.contract.queries import TextQuery
from harquel.core.curation import Pair, write_pairs
from harquel.service.operations import Call, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import StoredExample


@operation("example.export", takes=TextQuery, gives=ExampleExport, scope="steward", about=SOURCE_EVEN_OFF)
def give_out(call: Call[TextQuery, LiveSource]) -> ExampleExport:
    """As YAML, or with ?form=jsonl as JSON Lines."""
    form: Literal["yaml", "jsonl"] = "jsonl" if call.asked.form == "jsonl" else "yaml"
    pairs = [
        Pair(question=e.question, sql=e.sql, tags=tuple(e.tags), author=e.author)
        for e in StoredExample.objects.filter(source=call.about.name).order_by("pk")
    ]
    return ExampleExport(form=form, text=write_pairs(pairs, form))
