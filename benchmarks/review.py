"""What we think about a draft against what the SQL library itself needs to parse, qualify and render it."""

from __future__ import annotations

import statistics
from pathlib import Path

import sqlglot
from sqlglot import exp
from sqlglot.errors import SqlglotError
from sqlglot.optimizer.qualify import qualify
from trust.cases import cases, rows_of
from trust.read import said, written
from trust.readers import READINGS
from trust.world import World, world

from benchmarks.figure import Figure
from benchmarks.guard import best_ms
from harquel.core.answers.agreement import agreement
from harquel.core.domain.result import Result
from harquel.core.reading import NoControl, NoReading, Reading, control, grounded, reading_of
from harquel.core.review import review_draft
from harquel.core.sql.tree import parse
from harquel.testing.sources import NOW

_WITH = "parse, qualify, render"


def measure(folder: Path) -> list[Figure]:
    """Milliseconds, medians over the drafts and questions of the measure of trust; ratios are medians too.

    A question is read once an inquiry, and its rows are compared with a draft's once a draft.
    """
    known = world(folder / "ferries.db")
    schema: dict[str, object] = {
        t.name: {c.name: c.type or "TEXT" for c in t.columns} for t in known.index.catalog.tables
    }
    readings = written(READINGS / "demo.yaml")
    reviewed, built, compared, all_three = [], [], [], []
    for case in cases():

        def library(sql: str = case.sql) -> None:
            tree = sqlglot.parse_one(sql, dialect="sqlite")
            qualify(tree, schema=schema, dialect="sqlite", quote_identifiers=False).sql("sqlite")

        def review(tree: exp.Expr = parse(case.sql, "sqlite")[0]) -> None:
            review_draft(tree, known.index, NOW)

        try:
            library()
        except SqlglotError:
            continue  # the library itself cannot qualify it
        base, own = best_ms(library, 3), best_ms(review, 3)
        reviewed.append((own, base))
        text = said(readings[case.question], case.question) if case.question in readings else ""
        rows = rows_of(known.database, case.sql) if text else ""
        if isinstance(rows, str):
            continue
        built.append((best_ms(lambda text=text, asked=case.question: _build(text, asked, known), 3), base))  # type: ignore[misc]
        result = _result([list(row) for row in rows])
        compared.append((best_ms(lambda result=result: agreement(result, result), 3), base))  # type: ignore[misc]
        all_three.append((own + built[-1][0] + compared[-1][0], base))
    return [
        _figure(f"review, per draft, {len(reviewed)} drafts", reviewed),
        _figure("a reading held against its question, its control built", built),
        _figure("rows compared, per draft", compared),
        _figure("review, reading, control and comparing", all_three),
    ]


def _build(text: str, question: str, known: World) -> str:
    reading: Reading | NoReading = reading_of(text)
    if isinstance(reading, NoReading) or grounded(reading, question, NOW):
        return ""
    try:
        return control(reading, known.index.catalog, known.notes, "sqlite", NOW)
    except NoControl:
        return ""


def _result(rows: list[list[object]]) -> Result:
    width = len(rows[0]) if rows else 0
    return Result(tuple(map(str, range(width))), ("text",) * width, rows, None, 0, 0.0)


def _figure(name: str, pairs: list[tuple[float, float]]) -> Figure:
    base = statistics.median(b for _, b in pairs)
    return Figure(name, base * statistics.median(o / b for o, b in pairs), "ms", base, _WITH)
