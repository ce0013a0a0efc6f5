"""What can be asked, taken together from what the service tells whoever asks."""

from __future__ import annotations

from typing import Final

from harquel.client import AsyncHarquel
from harquel.client.calls import catalog as catalog_of
from harquel.client.calls import source as source_of
from harquel.contract import CatalogColumn, CatalogShape, CatalogTable, SourceLine

from .shapes import LookArguments, ToldCatalog, ToldField, ToldMeasure, ToldSource, ToldTableLine

MOST_TABLES: Final = 100
_MOST_MEASURES: Final = 60
_MOST_VALUES: Final = 12
_LONGEST: Final = 300
"""Characters of a description in a list."""


class NoSuchTable(Exception):
    """The source has no table of that name that may be seen."""


async def looked(client: AsyncHarquel, given: LookArguments) -> ToldCatalog:
    """What there is, as far as it was asked for. Raises HarquelError, NoSuchTable."""
    if given.source is None:
        return ToldCatalog(sources=[_source(line) for line in await client.sources()])
    line, catalog = await client.send(source_of(given.source)), await client.send(catalog_of(given.source))
    if given.table is not None:
        wanted = given.table.casefold()
        table = next((t for t in catalog.tables if t.name.casefold() == wanted), None)
        if table is None:
            raise NoSuchTable(given.table)
        columns = [_field(column, table) for column in table.columns]
        return ToldCatalog(sources=[_source(line)], tables=[_line(table)], columns=columns)
    return _overview(line, catalog, given.search or "")


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
    return ToldSource(
        name=line.name, title=line.title, engine=line.engine, tables=line.tables, questions=line.starters,
        problem=line.problem or "",
    )  # fmt: skip


def _line(table: CatalogTable) -> ToldTableLine:
    return ToldTableLine(
        name=table.name, text=(table.text or table.comment)[:_LONGEST], rows=table.row_count, columns=len(table.columns)
    )


def _field(column: CatalogColumn, table: CatalogTable) -> ToldField:
    points_at = next((k.table for k in table.foreign_keys if column.name in k.columns), "")
    return ToldField(
        name=column.name, type=column.type, text=(column.text or column.comment)[:_LONGEST], unit=column.unit,
        values=column.samples[:_MOST_VALUES], meanings=column.codes, points_at=points_at,
    )  # fmt: skip
