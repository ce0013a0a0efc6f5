"""From a result to the answer: the table with its units, the sentence, the read-back, the caveats."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from sqlglot import exp

from harquel.contract.charts import ChartWish
from harquel.core.answers import cited_measures, decimals_of, lines_of, read_back, roles_of, units_of, word
from harquel.core.answers.charts import Arranged, arranged, as_read, as_they_are
from harquel.core.answers.sentence import Told, remark, sentence
from harquel.core.answers.withheld import CODE as WITHHELD
from harquel.core.answers.withheld import withheld_from
from harquel.core.domain.findings import TOLD, Finding
from harquel.core.domain.inquiry import Answer, Caveat, ResultColumn, ResultTable
from harquel.core.domain.result import Result
from harquel.core.guard import TextRuling
from harquel.core.inquiry.course import Course
from harquel.core.inquiry.freshness import fresh
from harquel.core.inquiry.repair import Candidate, by_weight
from harquel.core.language.say import in_language, said_as, say
from harquel.core.reading import Reading

_OUR_LIMIT = re.compile(r" LIMIT \d+$")
_READABLE = 140
"""Characters of a trace that still belongs into the sentence; longer ones hold whole queries."""


@dataclass(frozen=True)
class Confirmed:
    """How the question was read, where what is built from that gives the same rows; and the columns of the answer by
    those of its own statement that hold the same.
    """

    reading: Reading
    places: Mapping[int, int]


def fill_answer(
    course: Course, candidate: Candidate, findings: list[Finding], confirmed: Confirmed | None = None
) -> None:
    """Writes answer, outcome and trust into the inquiry. `findings` are all that remain on draft and result."""
    ruled, result = candidate.ruled, candidate.result
    assert ruled.statement is not None
    assert ruled.tree is not None
    assert result is not None
    inquiry, notes = course.inquiry, course.source.notes
    with course.clock.phase("answer"):
        statement = course.read(ruled.tree)
        asked = course.asked.question
        findings = [*findings, *withheld_from(
            course.catalog, course.whole, statement.names.reads, asked, candidate.said.sql
        )]  # fmt: skip
        table = table_of(course, ruled, result)
        doubtful = [*by_weight(findings), *silence(course)]
        measures = cited_measures(statement, notes)
        told = _read(course, table, confirmed)
        picture, said = _picture(course, table, told), language(course)
        inquiry.answer = Answer(
            remark=remark(told) if told is not None else "",
            text=f"{_sentence(course, table, told)}{_why_none(findings, said)}{_told(findings, said)}",
            caveats=[Caveat(rule=f.rule, message=in_language(f.message, language(course))) for f in doubtful],
            sql=ruled.statement.sql, sql_shown=_without_our_limit(ruled),
            read_back=read_back(statement, notes, language(course)),
            lines=lines_of(statement, notes, course.now, [m.name for m in measures], language(course)),
            explanation=candidate.said.explanation, table=table, measures=measures, chart=picture.chart,
            chart_note=picture.note, fresh=fresh(course, statement.names.reads, language(course)),
        )  # fmt: skip
    inquiry.outcome, inquiry.trust = "answered", "caution" if doubtful else "clear"


def _without_our_limit(ruled: TextRuling) -> str:
    """The statement that ran without the limit that the guard wrote at its end; empty where it wrote none."""
    assert ruled.statement is not None
    if not isinstance(ruled.tree, exp.Query) or ruled.tree.args.get("limit") is not None:
        return ""
    shown = _OUR_LIMIT.sub("", ruled.statement.sql)
    return shown if shown != ruled.statement.sql else ""


def _read(course: Course, table: ResultTable, confirmed: Confirmed | None) -> Told | None:
    """The rows with the reading whose statement gave the same; None where none did."""
    if confirmed is None:
        return None
    notes = course.source.notes
    return Told(course.asked.question, confirmed.reading, table, confirmed.places, notes, course.now, language(course))


def _sentence(course: Course, table: ResultTable, told: Told | None) -> str:
    """In words where the question is known to be answered by these rows, otherwise what stands in them."""
    said = sentence(told) if told is not None else None
    return said or word(table, course.source.notes.known_units, language(course))


def _picture(course: Course, table: ResultTable, told: Told | None) -> Arranged:
    """What is drawn of the rows, and what became of a wish in the question: its words asked for nothing else."""
    asked, said = course.asked, language(course)
    if asked.table:
        return Arranged(None, say(said, "chart-table", words=asked.words))
    seen = as_read(told) if told is not None else as_they_are(table, said)
    found = arranged(seen, table, asked.wish or ChartWish(), course.now, said, course.source.notes.calendar)
    if asked.wish is None or found.chart is None or found.note:
        return found if asked.wish is not None else Arranged(found.chart)
    return Arranged(
        found.chart, say(said, "chart-wished", kind=say(said, f"chart-{found.chart.kind}"), words=asked.words)
    )


def _why_none(findings: list[Finding], language: str) -> str:
    """What there is instead of nothing, where that is no doubt but part of the answer, and can be read by anybody."""
    found = (f.message for f in findings if f.rule == "result-empty" and f.severity == "info")
    said = in_language(next(found, ""), language)
    return f" {said}" if 0 < len(said) <= _READABLE else ""


def _told(findings: list[Finding], language: str) -> str:
    """That not everything is shown although everything was wanted, or that what was cut off is level with it."""
    told = [f.message for f in findings if f.rule in TOLD | {WITHHELD} and f.severity == "info"]
    return "".join(f" {in_language(message, language)}" for message in told)


def language(course: Course) -> Literal["en", "de"]:
    """In which language a statement is read back to whoever asked."""
    return "de" if course.inquiry.language == "de" else "en"


def table_of(course: Course, ruled: TextRuling, result: Result) -> ResultTable:
    """The rows with what the notes say of each column."""
    assert ruled.tree is not None
    units = units_of(ruled.tree, course.source.engine, course.catalog, course.source.notes)
    roles = roles_of(course.read(ruled.tree))
    if len(units) != len(result.columns):
        units = [None] * len(result.columns)
    if len(roles) != len(result.columns):
        roles = [None] * len(result.columns)
    sign = course.source.notes.known_units.sign
    return ResultTable(
        columns=[
            ResultColumn(
                name=name, type=kind, unit=sign(unit), role=role if kind == "integer" else None,
                decimals=decimals_of([r[i] for r in result.rows], unit) if kind in ("number", "decimal") else None,
            )
            for i, (name, kind, unit, role) in enumerate(zip(result.columns, result.types, units, roles, strict=True))
        ],
        rows=result.rows, row_count=len(result.rows), cut_by=result.cut_by,
    )  # fmt: skip


def silence(course: Course) -> list[Finding]:
    """The caveat that tells which findings did not count this once, and what they would have said."""
    names = course.inquiry.silenced
    if not names:
        return []
    message: str = said_as("caveat-silenced", names=", ".join(names))
    if course.silenced:
        said = in_language(" ", language(course)).join(
            in_language(finding.message, language(course)) for finding in course.silenced.values()
        )
        message = said_as("caveat-silenced-said", said=message, would=said)
    return [Finding(rule="silenced", severity="warning", message=message)]
