"""Picks tables, notes and examples for a question: all of them while they fit the budget."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass, field

from harquel.contract import BriefedTable, BriefingSummary
from harquel.core.briefing.describe import measure_text, table_names_in, table_text
from harquel.core.domain.catalog import Catalog, Table
from harquel.core.domain.examples import Example
from harquel.core.domain.notes import Notes

CHARS_PER_TOKEN = 3.6
"""Rough size of a token in schema text; an estimate, shown as one."""
_NAMED = 3
"""How much more a word counts that names a table or column than one that is only mentioned there."""


@dataclass(frozen=True)
class Briefing:
    """`schema`, `measures`, `general` are prompt text; `summary` says what was picked and why."""

    engine: str
    schema: str
    measures: str
    general: str
    examples: tuple[Example, ...]
    summary: BriefingSummary
    tables: tuple[Table, ...] = field(repr=False, default=())


def estimate_tokens(text: str) -> int:
    """Tokens that a text of this length takes, roughly."""
    return int(len(text) / CHARS_PER_TOKEN) + 1


def brief(question: str, catalog: Catalog, notes: Notes, examples: tuple[Example, ...], budget_tokens: int) -> Briefing:
    """The briefing. `catalog` is the visible one; nothing outside it is mentioned.

    The whole schema goes in while it fits. Otherwise tables are taken by how many words they share
    with the question, and after them the tables that their keys point at.
    """
    described = {t.name: table_text(t, notes.of(t.name)) for t in catalog.tables}
    total = sum(map(estimate_tokens, described.values()))
    if total <= budget_tokens:
        picked = [(t, "the whole schema fits") for t in catalog.tables]
    else:
        picked = _by_words(question, catalog, described, notes, budget_tokens)
    names = {t.name for t, _ in picked}
    known = {t.name.casefold() for t in catalog.tables}
    measures = [
        measure_text(name, measure)
        for name, measure in notes.measures.items()
        if table_names_in(measure) <= {n.casefold() for n in names} and _columns_exist(measure.sql, catalog)
    ]
    usable = tuple(e for e in examples if {t.casefold() for t in e.tables} <= known)
    texts = [described[t.name] for t, _ in picked] + measures
    summary = BriefingSummary(
        tables=[BriefedTable(name=t.name, columns=[c.name for c in t.columns], reason=reason) for t, reason in picked],
        examples=[e.question for e in usable],
        tokens=sum(map(estimate_tokens, texts)) + sum(estimate_tokens(e.question + e.sql) for e in usable),
    )
    return Briefing(
        catalog.engine,
        "\n\n".join(described[t.name] for t, _ in picked),
        "\n".join(measures),
        notes.text.strip(),
        usable,
        summary,
        tuple(t for t, _ in picked),
    )


def _columns_exist(sql: str, catalog: Catalog) -> bool:
    for table, column in re.findall(r"\b([A-Za-z_]\w*)\.([A-Za-z_]\w*)\b", sql):
        found = catalog.table(table)
        if found is None or found.column(column) is None:
            return False
    return True


def _words(text: str) -> set[str]:
    return {w.rstrip("s") for w in re.split(r"[\W_]+", text.casefold()) if len(w) > 2}


def _names(table: Table, notes: Notes) -> set[str]:
    """What a table and its columns are called, not what stands in them."""
    about = notes.of(table.name)
    columns = [word for c in about.columns.values() for word in c.synonyms]
    return _words(" ".join((table.name, *about.synonyms, *columns, *(c.name for c in table.columns))))


def _by_words(
    question: str, catalog: Catalog, described: dict[str, str], notes: Notes, budget: int
) -> list[tuple[Table, str]]:
    asked = _words(question)
    for name, measure in notes.measures.items():
        if asked & _words(" ".join((name, *measure.synonyms))):
            asked |= _words(" ".join(table_names_in(measure)))
    words = {t.name: _words(described[t.name]) for t in catalog.tables}
    shared = {name: asked & known for name, known in words.items()}
    # A word that few tables know says more than one that stands in all of them.
    holders = Counter(word for known in words.values() for word in known & asked)
    named = {t.name: _names(t, notes) for t in catalog.tables}
    weight = {
        name: sum((_NAMED if word in named[name] else 1) / holders[word] for word in common)
        for name, common in shared.items()
    }
    ranked = sorted((t for t in catalog.tables if shared[t.name]), key=lambda t: -weight[t.name])
    picked: dict[str, str] = {}
    left = budget
    for table in ranked:
        near = [k.table for k in table.foreign_keys]
        for name, reason in [(table.name, f"shares {', '.join(sorted(shared[table.name]))} with the question")] + [
            (n, f"{table.name} points at it") for n in near
        ]:
            cost = estimate_tokens(described.get(name, ""))
            if name in described and name not in picked and cost <= left:
                picked[name], left = reason, left - cost
    return [(t, picked[t.name]) for t in catalog.tables if t.name in picked]
