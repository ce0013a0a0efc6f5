"""The review of a draft against what the SQL library itself needs to parse, qualify and render it."""

from __future__ import annotations

import statistics
from pathlib import Path

import sqlglot
from sqlglot import exp
from sqlglot.errors import SqlglotError
from sqlglot.optimizer.qualify import qualify
from trust.cases import cases
from trust.world import world

from benchmarks.figure import Figure
from benchmarks.guard import best_ms
from harquel.core.review import Question, read_question, review_draft
from harquel.core.sql.tree import parse
from harquel.testing.sources import NOW


def measure(folder: Path) -> list[Figure]:
    """Milliseconds per draft, medians over the drafts of the measure of trust; the ratio is a median too.

    The question is read once for all drafts of an inquiry, and has a figure of its own.
    """
    known = world(folder / "ferries.db")
    index = known.index
    schema: dict[str, object] = {t.name: {c.name: c.type or "TEXT" for c in t.columns} for t in index.catalog.tables}
    _ = index.meanings
    pairs, reading = [], []
    for case in cases():
        question = read_question(case.question, NOW, index.meanings)

        def library(sql: str = case.sql) -> None:
            tree = sqlglot.parse_one(sql, dialect="sqlite")
            qualify(tree, schema=schema, dialect="sqlite", quote_identifiers=False).sql("sqlite")

        def ours(tree: exp.Expr = parse(case.sql, "sqlite")[0], question: Question = question) -> None:
            review_draft(tree, question, index, known.examples)

        try:
            library()
        except SqlglotError:
            continue  # the library itself cannot qualify it
        pairs.append((best_ms(ours, 3), best_ms(library, 3)))
        reading.append(best_ms(lambda text=case.question: read_question(text, NOW, index.meanings), 3))  # type: ignore[misc]
    base = statistics.median(b for _, b in pairs)
    value = base * statistics.median(o / b for o, b in pairs)
    return [
        Figure(f"review, per draft, {len(pairs)} drafts", value, "ms", base, "parse, qualify, render"),
        Figure("reading a question, once an inquiry", statistics.median(reading), "ms", base, "parse, qualify, render"),
    ]
