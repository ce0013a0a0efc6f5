"""From live sources to the shapes of the contract."""

from __future__ import annotations

from harquel.contract import CatalogColumn, CatalogShape, CatalogTable, ForeignKeyShape, SourceLine
from harquel.core.domain.notes import ColumnNotes
from harquel.core.errors import SourceError
from harquel.service.runtime import LiveSource


def source_shape(source: LiveSource) -> SourceLine:
    """One line; a source that cannot be read says so."""
    line = SourceLine(
        name=source.name, engine=source.engine.name, title=source.title, as_of=source.as_of,
        model=source.core.model.profile.name, starters=list(source.starters),
    )  # fmt: skip
    try:
        line.tables = len(source.core.policy.visible(source.keeper.current()).tables)
    except SourceError as error:
        line.problem, line.hint = str(error), error.hint
    return line


def catalog_shape(source: LiveSource) -> CatalogShape:
    """What is exposed, with the notes. Raises SourceError."""
    catalog = source.core.policy.visible(source.keeper.current())
    tables = []
    for table in catalog.tables:
        notes = source.core.notes.of(table.name)
        columns = []
        for column in table.columns:
            about = notes.columns.get(column.name) or ColumnNotes()
            columns.append(
                CatalogColumn(
                    name=column.name, type=column.type, nullable=column.nullable, primary_key=column.primary_key,
                    text=about.text, unit=about.unit, codes=about.codes, samples=list(column.samples),
                )
            )  # fmt: skip
        keys = [
            ForeignKeyShape(columns=list(k.columns), table=k.table, references=list(k.references))
            for k in table.foreign_keys
        ]
        tables.append(
            CatalogTable(
                name=table.name, kind=table.kind, text=notes.text.strip(), row_count=table.row_count,
                columns=columns, foreign_keys=keys,
            )
        )  # fmt: skip
    return CatalogShape(
        source=source.name, fingerprint=catalog.fingerprint, scanned_at=catalog.scanned_at, tables=tables
    )
