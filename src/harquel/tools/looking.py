"""What can be asked, taken together from what the service tells whoever asks."""

from __future__ import annotations

from typing import Any, Final

from harquel.client import AsyncHarquel
from harquel.client.calls import catalog as catalog_of
from harquel.client.calls import source as source_of
from harquel.contract import CatalogColumn, CatalogShape, CatalogTable, SourceLine

from .shapes import LookArguments, ToldCatalog, ToldField, ToldMeasure, ToldSource, ToldTableLine

MOST_TABLES: Final = 100
MOST_COLUMNS: Final = 300
_MOST_SOURCES: Final = 100
_MOST_QUESTIONS: Final = 12
_MOST_MEASURES: Final = 60
_MOST_CODES: Final = 60
_MOST_VALUES: Final = 12
_LONGEST: Final = 300
"""Characters of a description in a list."""
_LONGEST_VALUE: Final = 100


class NoSuchTable(Exception):
    """The source has no table of that name that may be seen."""


async def looked(client: AsyncHarquel, given: LookArguments) -> ToldCatalog:
    """What there is, as far as it was asked for. Raises HarquelError, NoSuchTable."""
    if given.source is None:
        found = await client.sources()
        return ToldCatalog(sources=[_source(line) for line in found[:_MOST_SOURCES]])
    line, catalog = await client.send(source_of(given.source)), await client.send(catalog_of(given.source))
    return overview(line, catalog, given.table, given.search or "")


def overview(line: SourceLine, catalog: CatalogShape, named: str | None, search: str = "") -> ToldCatalog:
    """A source, or the columns of a table of it, within bounds. Raises NoSuchTable."""
    if named is None:
        return _overview(line, catalog, search)
    table = next((t for t in catalog.tables if t.name.casefold() == named.casefold()), None)
    if table is None:
        raise NoSuchTable(named)
    columns = [_field(column, table) for column in table.columns[:MOST_COLUMNS]]
    left_out = len(table.columns) - len(columns)
    return ToldCatalog(sources=[_source(line)], tables=[_line(table)], columns=columns, left_out=left_out)


def _overview(line: SourceLine, catalog: CatalogShape, search: str) -> ToldCatalog:
    words = search.casefold().split()

    def fits(*texts: str) -> bool:
        said = " ".join(texts).casefold()
        return all(word in said for word in words)

    tables = [t for t in catalog.tables if fits(t.name, t.text, *t.synonyms, *(c.name for c in t.columns))]
    measures = [m for m in catalog.measures if fits(m.name, m.text, *m.synonyms)]
    return ToldCatalog(
        sources=[_source(line)], tables=[_line(t) for t in tables[:MOST_TABLES]],
        measures=[
            ToldMeasure(name=m.name, text=m.text[:_LONGEST], unit=m.unit, owner=m.owner)
            for m in measures[:_MOST_MEASURES]
        ],
        left_out=max(0, len(tables) - MOST_TABLES),
    )  # fmt: skip


def _source(line: SourceLine) -> ToldSource:
    questions = [q[:_LONGEST] for q in line.starters[:_MOST_QUESTIONS]]
    return ToldSource(
        name=line.name, title=line.title, engine=line.engine, tables=line.tables, questions=questions,
        problem=line.problem or "",
    )  # fmt: skip


def _line(table: CatalogTable) -> ToldTableLine:
    return ToldTableLine(
        name=table.name, text=(table.text or table.comment)[:_LONGEST], rows=table.row_count, columns=len(table.columns)
    )


def _field(column: CatalogColumn, table: CatalogTable) -> ToldField:
    points_at = next((k.table for k in table.foreign_keys if column.name in k.columns), "")
    meanings = {code: _short(means) for code, means in list(column.codes.items())[:_MOST_CODES]}
    return ToldField(
        name=column.name, type=column.type, text=(column.text or column.comment)[:_LONGEST], unit=column.unit,
        values=[_short(v) for v in column.samples[:_MOST_VALUES]], meanings=meanings, points_at=points_at,
    )  # fmt: skip


def _short(value: Any) -> Any:
    return value[:_LONGEST_VALUE] if isinstance(value, str) else value
