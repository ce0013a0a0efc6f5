"""Questions that can be read in two ways, both likely: told apart before anything is drafted, so that we can ask back.

What decides is looked for first: an agreed measure, another word of the question, the notes, an example that asks
the same, times that the data does not reach. Only where nothing of it speaks is there a choice.
"""

from __future__ import annotations

import datetime as dt
import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Final

from sqlglot import exp

from harquel.core.briefing import CatalogIndex
from harquel.core.briefing.meanings import Meaning
from harquel.core.briefing.words import split, stem, stems
from harquel.core.domain.catalog import Column, Table
from harquel.core.domain.examples import Example
from harquel.core.review.dates import event_times, leading_time, time_stems
from harquel.core.review.probes import Look, rows_with
from harquel.core.review.question import Mention, Question
from harquel.core.review.statement import Ref
from harquel.core.sql.tree import identifier

MOST_READINGS: Final = 4


@dataclass(frozen=True)
class Reading:
    """One way to read a question. `words` is what the question gains when it is meant so; it decides when read."""

    id: str
    label: str
    words: str


@dataclass(frozen=True)
class OpenPoint:
    """What a question leaves open: what we ask back, and the readings."""

    question: str
    readings: tuple[Reading, ...]

    def told(self) -> str:
        """For somebody who is not asked: what else it could have meant."""
        ways = [r.label[:1].lower() + r.label[1:] for r in self.readings]
        return f"The question can be read in {len(ways)} ways: {'; or '.join(ways)}. This answer takes one of them."


def open_point(
    question: Question, index: CatalogIndex, examples: Iterable[Example], look: Look | None = None
) -> OpenPoint | None:
    """The first thing that a question leaves open, if any. `look` runs a small query of ours."""
    if not question.readable or not question.words:
        return None
    asked = set(stems(question.text))
    if any(set(stems(e.question)) == asked for e in examples):
        return None
    found = _shared_word(question, index) or _dates(question, index)
    return found or (_namesakes(question, index, look) if look is not None else None)


# -- a word that several tables know ---------------------------------------------------------------


def _shared_word(question: Question, index: CatalogIndex) -> OpenPoint | None:
    # A word that is known only from remarks, or not at all, may be what decides: then nothing is asked.
    if question.measures or question.unknown or any(not m.firm for m in question.mentions):
        return None
    for mention in question.mentions:
        means = _by_table(mention, question, index)
        if len(means) < 2 or len(means) > MOST_READINGS:
            continue
        anchors = _anchors(question, mention, index)
        if anchors is None or len(_nearest(set(means), anchors, index)) < len(means):
            continue
        readings = tuple(
            Reading(table, _said(index, meaning, mention.text), _plain(index, table))
            for table, meaning in means.items()
        )
        return OpenPoint(f"“{mention.text}” can be said of several things. Which do you mean?", readings)
    return None


def _by_table(mention: Mention, question: Question, index: CatalogIndex) -> dict[str, Meaning]:
    """The tables in which a word is a state, a value or a column, when it is nothing else."""
    if not mention.firm or mention.idle or any(m.kind in ("table", "measure") for m in mention.meanings):
        return {}
    if mention.text.endswith("s") and not mention.text.endswith("ss"):
        return {}  # a plural names things, whichever table lists them: captains, cars
    meanings = [b for m in mention.meanings if m.kind != "remark" for b in _borne(m, index)]
    if any(t.kind == "table" for _, t in meanings):
        # A view shows what its tables hold.
        meanings = [(m, t) for m, t in meanings if t.kind == "table"]
    columns = [(m, t) for m, t in meanings if m.kind == "column" and not _is_state(t, m)]
    found: dict[str, Meaning] = {}
    # What is a column somewhere and a value elsewhere is the column: wind, and wind as a reason.
    for meaning, table in columns or meanings:
        if _reaches(table, question, index):
            found.setdefault(table.name, meaning)
    return found


def _borne(meaning: Meaning, index: CatalogIndex) -> list[tuple[Meaning, Table]]:
    """Whose a meaning is: of a word in a list of codes, of the tables that point at the list."""
    table = index.catalog.table(meaning.table)
    if table is None:
        return []
    pointing = [
        (replace(meaning, table=t.name, column=k.columns[0]), t)
        for t in index.catalog.tables for k in t.foreign_keys if k.table == table.name and len(k.columns) == 1
    ] if meaning.kind in ("value", "code") and _lists_codes(table) else []  # fmt: skip
    return pointing or [(meaning, table)]


def _lists_codes(table: Table) -> bool:
    """Whether a table only says what codes mean: its key, one text beside it, and at most how they are ordered."""
    rest = [c for c in table.columns if not c.primary_key]
    return (
        not table.foreign_keys
        and sum(c.primary_key for c in table.columns) == 1
        and [c.kind for c in rest].count("text") == 1
        and all(c.kind in ("text", "number", "boolean") for c in rest)
    )


def _is_state(table: Table, meaning: Meaning) -> bool:
    column = table.column(meaning.column)
    return column is not None and column.kind == "boolean"


def _reaches(table: Table, question: Question, index: CatalogIndex) -> bool:
    """Whether the rows of a table go as far as the times asked about, by the column that dates them."""
    when = table.column(index.notes.of(table.name).when or "")
    if when is None or when.low is None or when.high is None:
        return True
    low, high = str(when.low)[:10], str(when.high)[:10]
    spans = [(p.start, p.end) for p in question.periods if p.start is not None or p.end is not None]
    return not spans or any(
        (start is None or _day(start) <= high) and (end is None or _day(end) > low) for start, end in spans
    )


def _day(value: dt.date | dt.datetime) -> str:
    return value.isoformat()[:10]


def _anchors(question: Question, mention: Mention, index: CatalogIndex) -> set[str] | None:
    """The tables that the rest of the question is about; None where some of it could be about several."""
    found: set[str] = set()
    for other in question.mentions:
        named = {m.table for m in other.meanings if m.kind == "table"}
        if other is mention or (other.idle and not named):
            continue
        # A key stands for what it points at: sailing_id for the sailing.
        tables = named or {_target(m, index) for of in other.meanings for m, _ in _borne(of, index)}
        if len(tables) > 1 and not named:
            return None
        found |= tables
    return found


def _target(meaning: Meaning, index: CatalogIndex) -> str:
    table = index.catalog.table(meaning.table)
    keys = table.foreign_keys if table is not None and meaning.kind == "column" else ()
    return next((k.table for k in keys if k.columns == (meaning.column,)), meaning.table)


def _nearest(tables: set[str], anchors: set[str], index: CatalogIndex) -> set[str]:
    """Those of the tables that keys tie most closely to what the question is about; all when nothing tells."""
    if not anchors:
        return tables
    far = {t: sum(_hops(t, anchor, index) for anchor in anchors) for t in tables}
    return {t for t, hops in far.items() if hops == min(far.values())}


def _hops(start: str, goal: str, index: CatalogIndex) -> int:
    """Keys between two tables; more than there are tables where none lead there."""
    tables = index.catalog.tables
    numbers = index.numbers
    here, there = numbers.get(start.casefold()), numbers.get(goal.casefold())
    if here is None or there is None:
        return len(tables)
    seen, level, hops = {here}, {here}, 0
    while level and there not in seen:
        level = {n for t in level for n in (*index.parents[t], *index.children[t])} - seen
        seen |= level
        hops += 1
    return hops if there in seen else len(tables)


def _said(index: CatalogIndex, meaning: Meaning, text: str) -> str:
    known = index.catalog.table(meaning.table)
    assert known is not None
    thing, name = " ".join(split(known.plain)), " ".join(split(meaning.column))
    article = "An" if thing[:1] in "aeiou" else "A"
    if meaning.kind in ("code", "value"):
        return f"{article} {thing} whose {name} is {text}"
    if meaning.kind == "null" or _is_state(known, meaning):
        return f"{article} {thing} that is {text}"
    return f"{name.capitalize()} of {article.lower()} {thing}"


def _plain(index: CatalogIndex, table: str) -> str:
    known = index.catalog.table(table)
    return " ".join(split(known.plain if known is not None else table))


# -- times by which the rows of a table could be dated ---------------------------------------------


def _dates(question: Question, index: CatalogIndex) -> OpenPoint | None:
    if not question.periods or question.measures:
        return None
    named = [m for mention in question.mentions if mention.firm for m in mention.meanings if m.kind == "table"]
    tables = {m.table for m in named}
    if len(tables) != 1:
        return None
    (name,) = tables
    table = index.catalog.table(name)
    if table is None or leading_time(table, index.notes) is not None:
        return None
    columns = event_times(table)
    if not 2 <= len(columns) <= MOST_READINGS or _names_one(question, index, name):
        return None
    said = {c.name: " ".join(split(c.name)) for c in columns}
    readings = tuple(Reading(f"{name}.{c}", f"By {words}", words) for c, words in said.items())
    return OpenPoint(f"By which time is a {_plain(index, name)} counted?", readings)


def _names_one(question: Question, index: CatalogIndex, table: str) -> bool:
    """Whether a word of the question belongs to a column of times: "opened", "departure", "booked"."""
    known = index.catalog.table(table)
    words = {w for c in (known.columns if known is not None else ()) if c.kind == "temporal" for w in time_stems(c)}
    about = index.notes.of(table).columns
    words |= {stem(w) for c, n in about.items() for s in n.synonyms for w in split(s) if _temporal(known, c)}
    return bool(words & question.stems)


def _temporal(table: Table | None, column: str) -> bool:
    found = table.column(column) if table is not None else None
    return found is not None and found.kind == "temporal"


# -- several rows of one name ----------------------------------------------------------------------


def _namesakes(question: Question, index: CatalogIndex, look: Look) -> OpenPoint | None:
    for mention in question.mentions:
        values = [m for m in mention.meanings if m.kind == "value"]
        if not mention.firm or len({(m.table, m.column) for m in values}) != 1:
            continue
        table = index.catalog.table(values[0].table)
        column = table.column(values[0].column) if table is not None else None
        if table is None or column is None or not _names_things(table, column, index):
            continue
        told = [c for c in _telling(table, index) if c is not column]
        wanted = [exp.Column(this=identifier(c.name)) for c in told]
        query = rows_with(Ref(table, column), values[0].value, wanted, MOST_READINGS + 1, index.catalog.engine)
        rows = look(query) if told else None
        if not rows or not 2 <= len(rows) <= MOST_READINGS:
            continue
        if any(_stands_in(str(value), question.text) for row in rows for value in row if value is not None):
            continue  # the question says which
        for place, other in enumerate(told):
            held = [row[place] for row in rows]
            if None in held or len({str(h).casefold() for h in held}) < len(held):
                continue
            thing, by = _plain(index, table.name), " ".join(split(other.name))
            readings = tuple(
                Reading(f"{table.name}.{other.name}={h}", f"{values[0].value}, {by} {h}", f"{thing} with {by} {h}")
                for h in held
            )
            return OpenPoint(f"There are {len(rows)} of the name {values[0].value}. Which do you mean?", readings)
    return None


def _names_things(table: Table, column: Column, index: CatalogIndex) -> bool:
    """Whether a column names the rows of a table, and some share a name."""
    label = index.notes.of(table.name).label
    if table.kind != "table" or column.unique or (column.name != label if label else "name" not in split(column.name)):
        return False
    named = column.distinct and table.row_count and column.distinct < table.row_count
    return bool(named) and not table.shared_by_many(column)


def _telling(table: Table, index: CatalogIndex) -> list[Column]:
    """Columns that could tell rows of one name apart, the ones that people know first."""
    open_ = [
        c for c in table.columns if c.kind in ("text", "number") and not index.policy.is_personal(table.name, c)
        and not any(c.name in k.columns for k in table.foreign_keys)
    ]  # fmt: skip
    return sorted(open_, key=lambda c: (c.kind != "text", c.primary_key, not c.unique))


def _stands_in(value: str, text: str) -> bool:
    return re.search(rf"(?<!\w){re.escape(value.casefold())}(?!\w)", text.casefold()) is not None
