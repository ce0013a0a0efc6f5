"""Takes every draft through whole inquiries, beside a reading of its question; puts questions to models that slip."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from harquel.core.domain.findings import REVIEW_CODES
from harquel.core.domain.inquiry import Inquiry
from harquel.core.domain.policy import Lessened, ReviewTerms
from harquel.core.inquiry.source import Source
from harquel.core.llm.model import LanguageModel
from harquel.testing.scripted import Scripted
from harquel.testing.sources import ask, demo_sandbox, keeper_of, model_of, source_of
from trust.cases import Case, Rows, as_far, rows_of, same
from trust.read import Reads, said
from trust.world import World, world


@dataclass
class Kind:
    """What became of the drafts of one kind. `found`: it was said what is wrong, not only that nothing confirms it."""

    name: str
    drafts: int = 0
    found: int = 0
    repaired: int = 0
    announced: int = 0
    silent: int = 0


@dataclass
class Report:
    """Of all drafts. `missed` and `alarms` name the cases, for reading."""

    kinds: dict[str, Kind] = field(default_factory=dict)
    right: int = 0
    false_alarms: int = 0
    missed: list[str] = field(default_factory=list)
    alarms: list[str] = field(default_factory=list)


@dataclass
class Asked:
    """What became of the questions put to a model with a temper."""

    model: str
    reviewed: bool
    questions: int = 0
    right: int = 0
    repaired: int = 0
    announced: int = 0
    silent: int = 0
    doubted: int = 0
    """Right, with a caveat all the same."""
    answered: int = 0
    tokens: int = 0
    """That models read and wrote for those that were answered."""


@contextmanager
def source_with(database: Path, model: LanguageModel, review: bool = True) -> Iterator[Source]:
    """A source over the demo database with a model of one's own."""
    with source_over(world(database), model, review) as source:
        yield source


@contextmanager
def source_over(around: World, model: LanguageModel, review: bool = True) -> Iterator[Source]:
    """The same over any of the worlds."""
    with opened(around, review) as make:
        yield make(model)


@contextmanager
def opened(around: World, review: bool = True) -> Iterator[Callable[[LanguageModel], Source]]:
    """Makes sources that differ in their model only; they share workers and what was looked into."""
    policy, database = around.policy, around.database
    if not review:
        off = tuple(Lessened(finding=c, reason="to see what review does") for c in sorted(REVIEW_CODES))
        policy = policy.model_copy(update={"review": ReviewTerms(dropped=off)})
    sandbox = demo_sandbox(database, query_s=policy.limits.query_s, memory_mb=policy.limits.memory_mb)
    keeper = keeper_of(database, policy)
    try:
        base = source_of(keeper, Scripted(""), sandbox, policy, around.notes, around.examples)  # type: ignore[arg-type]
        yield lambda model: replace(base, model=model)
    finally:
        sandbox.close()


def measure_drafts(cases: list[Case], around: World, readings: dict[str, dict[str, Any]]) -> Report:
    """Each draft through whole inquiries whose question is read as it was written down beforehand."""
    report = Report()
    results: dict[str, Rows | str] = {}

    def rows(sql: str) -> Rows | str:
        if sql not in results:
            results[sql] = rows_of(around.database, sql)
        return results[sql]

    with opened(around) as make:
        for case in cases:
            reader = Reads(said(readings.get(case.question, {"rows": "?"}), case.question))
            repeating = ask(replace(make(Scripted(case.sql)), reader=reader), case.question)
            if not case.kind:
                report.right += 1
                if repeating.trust != "clear":
                    report.false_alarms += 1
                    why = (
                        "; ".join(c.message for c in repeating.answer.caveats)
                        if repeating.answer
                        else str(repeating.problem)
                    )
                    report.alarms.append(f"{case.question} | {case.sql} | {why}")
                continue
            if same(rows(case.sql), rows(case.right), case.ordered):
                raise AssertionError(f"this is no wrong draft: {case.sql}")
            kind = report.kinds.setdefault(case.kind, Kind(case.kind))
            kind.drafts += 1
            kind.found += _found(repeating)
            if repeating.outcome == "answered" and repeating.trust == "clear":
                kind.silent += 1
                report.missed.append(f"{case.kind} | {case.question} | {case.sql}")
            else:
                kind.announced += 1
            mended = ask(replace(make(Scripted(case.sql, case.right)), reader=reader), case.question)
            kind.repaired += _says(mended, rows(case.right), case.ordered)
    return report


def _found(inquiry: Inquiry) -> bool:
    return inquiry.answer is None or any(c.rule != "unconfirmed" for c in inquiry.answer.caveats)


def measure_models(questions: list[Case], models: list[str], url: str, around: World) -> list[Asked]:
    """Each model, reading by another beside it or with no check at all, over the same questions."""
    found = []
    for review in (False, True):
        with opened(around, review) as make:
            for name in models:
                asked = Asked(name, review)
                for case in questions:
                    source = make(model_of(url, name))
                    if review:
                        source = replace(source, reader=model_of(url, "careful"))
                    _count(asked, ask(source, case.question), rows_of(around.database, case.right))
                found.append(asked)
    return found


def answered_well(cases: list[Case], url: str, around: World) -> list[Case]:
    """The questions to which the careful model knows the answer: only on these does a slip mean something."""
    seen: set[str] = set()
    found = []
    with opened(around, review=False) as make:
        for case in cases:
            if case.kind or case.question in seen:
                continue
            seen.add(case.question)
            inquiry = ask(make(model_of(url, "careful")), case.question)
            if _says(inquiry, rows_of(around.database, case.right)):
                found.append(case)
    return found


def _count(asked: Asked, inquiry: Inquiry, want: Rows | str) -> None:
    asked.questions += 1
    if inquiry.answer is not None:
        asked.answered += 1
        asked.tokens += inquiry.usage.prompt_tokens + inquiry.usage.completion_tokens
    if _says(inquiry, want):
        asked.right += 1
        asked.repaired += len(inquiry.attempts) > 1
        asked.doubted += inquiry.trust != "clear"
    elif inquiry.outcome == "answered" and inquiry.trust == "clear":
        asked.silent += 1
    else:
        asked.announced += 1


def _says(inquiry: Inquiry, want: Rows | str, ordered: bool = False) -> bool:
    """Whether an answer gives the rows that are wanted; it may put their columns in another order, or add some."""
    if inquiry.answer is None or isinstance(want, str):
        return False
    return as_far([tuple(row) for row in inquiry.answer.table.rows], want, ordered)
