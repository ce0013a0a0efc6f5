"""Examples from a text."""

from __future__ import annotations

from harquel.contract import ExampleImport, ImportReport, events
from harquel.core.curation import read_pairs
from harquel.service.ledger.append import append
from harquel.service.operations import Call, operation
from harquel.service.runtime import runtime

from ..finding import SOURCE
from ..live import LiveSource, check_examples
from ..models import StoredExample


@operation(
    "example.import", takes=ExampleImport, gives=ImportReport, scope="steward", about=SOURCE, repeat="same",
    entries=("examples-imported",),
)  # fmt: skip
def take_in(call: Call[ExampleImport, LiveSource]) -> ImportReport:
    """Takes pairs in and checks them; a question that is known gets the new SQL."""
    source = call.about
    pairs = read_pairs(call.asked.text, call.asked.form, "given")

    def keep() -> tuple[int, int, tuple[int, ...]]:
        added = changed = 0
        keys: list[int] = []
        for pair in pairs:
            found = StoredExample.objects.filter(source=source.name, question=pair.question).first()
            if found is None:
                found = StoredExample(source=source.name, question=pair.question, origin="import")
                added += 1
            elif (found.sql, tuple(found.tags)) != (pair.sql, pair.tags):
                changed += 1
            found.sql, found.tags, found.state = pair.sql, list(pair.tags), "new"
            found.author = pair.author or found.author or call.caller.name
            found.save()
            keys.append(int(found.pk))
        what = events.ExamplesImported(source=source.name, added=added, changed=changed)
        append(who=call.caller.name, what=what)
        return added, changed, tuple(keys)

    added, changed, keys = runtime().writer.do(keep)
    check_examples(source, runtime().conductors, runtime().writer, keys)
    stale = StoredExample.objects.filter(pk__in=keys, state="stale")
    return ImportReport(
        added=added, changed=changed, stale=[e.question for e in stale],
        problems=[f"{e.question}: {e.said}" for e in stale],
    )  # fmt: skip
