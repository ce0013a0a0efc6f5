"""The example bank: pairs added, changed, checked, imported, exported; each change with its ledger entry."""

from __future__ import annotations

from typing import Any, Literal

from harquel.contract import (
    ExampleChange,
    ExampleExport,
    ExampleImport,
    ExampleRequest,
    ExampleShape,
    ImportReport,
)
from harquel.core.curation import Pair, near_duplicates, read_pairs, write_pairs
from harquel.service.access.models import Token
from harquel.service.inquiries.actions.find import find_inquiry
from harquel.service.ledger.append import append
from harquel.service.problems import ProblemError
from harquel.service.runtime import runtime

from ..live import check_examples
from ..models import StoredExample
from .find import source_for


def listed(name: str, token: Token) -> list[ExampleShape]:
    """The bank; each pair with those whose question is nearly the same. Raises ProblemError."""
    source_for(name, token, disabled_too=True)
    found = list(StoredExample.objects.filter(source=name).order_by("pk"))
    alike = near_duplicates([e.question for e in found])
    return [_shape(e, [found[i].pk for i in alike.get(n, ())]) for n, e in enumerate(found)]


def add(name: str, request: ExampleRequest, token: Token) -> ExampleShape:
    """A new pair, checked at once; from an answered inquiry when one is named. Raises ProblemError."""
    source = source_for(name, token)
    question, sql = request.question, request.sql
    if request.inquiry is not None:
        inquiry = find_inquiry(request.inquiry, token)
        answer = (inquiry.record or {}).get("answer")
        if inquiry.source != name or not answer:
            raise ProblemError(
                422, "not-answered", "Only an answered inquiry of this source makes an example.", "Choose another one."
            )
        question, sql = question or inquiry.question, sql or answer["sql"]
    if not (question or "").strip() or not (sql or "").strip():
        raise ProblemError(422, "pair-incomplete", "An example is a question and its SQL.", "Give both, or an inquiry.")
    if StoredExample.objects.filter(source=name, question=question).exists():
        raise ProblemError(409, "example-exists", "There is an example with this question.", "Change that one.")

    def keep() -> int:
        made = StoredExample.objects.create(
            source=name, question=question, sql=sql, tags=request.tags, author=token.person.name
        )
        _note(token, "example-added", name, made)
        return int(made.pk)

    key = runtime().writer.do(keep)
    check_examples(source, runtime().writer, (key,))
    return _one(name, key, token)


def change(name: str, key: int, request: ExampleChange, token: Token) -> ExampleShape:
    """Another text, tags, or off and on; checked again. Raises ProblemError."""
    source = source_for(name, token)
    found = _find(name, key, token)

    def keep() -> None:
        for field in ("question", "sql", "tags"):
            value = getattr(request, field)
            if value is not None:
                setattr(found, field, value)
        if request.off is not None:
            found.state = "off" if request.off else "new"
        found.save()
        _note(token, "example-changed", name, found)

    runtime().writer.do(keep)
    check_examples(source, runtime().writer, (key,))
    return _one(name, key, token)


def remove(name: str, key: int, token: Token) -> None:
    """Takes a pair out. Raises ProblemError."""
    found = _find(name, key, token)

    def forget() -> None:
        _note(token, "example-removed", name, found)
        found.delete()

    runtime().writer.do(forget)


def take_in(name: str, request: ExampleImport, token: Token) -> ImportReport:
    """Pairs from a text; a known question gets the new SQL. All are checked. Raises ConfigurationError."""
    source = source_for(name, token)
    pairs = read_pairs(request.text, request.form, "given")

    def keep() -> tuple[int, int, tuple[int, ...]]:
        added = changed = 0
        keys: list[int] = []
        for pair in pairs:
            found = StoredExample.objects.filter(source=name, question=pair.question).first()
            if found is None:
                found = StoredExample(source=name, question=pair.question, origin="import")
                added += 1
            elif (found.sql, tuple(found.tags)) != (pair.sql, pair.tags):
                changed += 1
            found.sql, found.tags, found.state = pair.sql, list(pair.tags), "new"
            found.author = pair.author or found.author or token.person.name
            found.save()
            keys.append(int(found.pk))
        facts = {"source": name, "added": added, "changed": changed}
        append(who=token.person.name, kind="examples-imported", facts=facts)
        return added, changed, tuple(keys)

    added, changed, keys = runtime().writer.do(keep)
    check_examples(source, runtime().writer, keys)
    stale = StoredExample.objects.filter(pk__in=keys, state="stale")
    return ImportReport(
        added=added, changed=changed, stale=[e.question for e in stale],
        problems=[f"{e.question}: {e.said}" for e in stale],
    )  # fmt: skip


def give_out(name: str, form: Literal["yaml", "jsonl"], token: Token) -> ExampleExport:
    """The bank as text. Raises ProblemError."""
    source_for(name, token, disabled_too=True)
    pairs = [
        Pair(question=e.question, sql=e.sql, tags=tuple(e.tags), author=e.author)
        for e in StoredExample.objects.filter(source=name).order_by("pk")
    ]
    return ExampleExport(form=form, text=write_pairs(pairs, form))


def check_all(name: str, token: Token) -> list[ExampleShape]:
    """Checks every pair against the database as it is now. Raises ProblemError."""
    check_examples(source_for(name, token), runtime().writer)
    return listed(name, token)


def _find(name: str, key: int, token: Token) -> StoredExample:
    source_for(name, token)
    found = StoredExample.objects.filter(source=name, pk=key).first()
    if found is None:
        raise ProblemError(404, "unknown-example", f"There is no example {key} of {name}.", "List them first.")
    return found


def _one(name: str, key: int, token: Token) -> ExampleShape:
    return next(e for e in listed(name, token) if e.id == key)


def _shape(found: StoredExample, alike: list[int]) -> ExampleShape:
    return ExampleShape(
        id=found.pk, question=found.question, sql=found.sql, tags=found.tags, author=found.author,
        state=found.state, said=found.said, alike=alike, checked_at=found.checked_at,
    )  # fmt: skip


def _note(token: Token, kind: str, source: str, example: StoredExample) -> None:
    facts: dict[str, Any] = {"source": source, "example": example.pk, "state": example.state}
    append(who=token.person.name, kind=kind, facts=facts, texts={"question": example.question, "sql": example.sql})
