"""From live sources to the shapes of the contract."""

from __future__ import annotations

from typing import Final

from harquel.contract import (
    CatalogColumn,
    CatalogShape,
    CatalogTable,
    ForeignKeyShape,
    MeasureLine,
    ScanShape,
    SourceLine,
)
from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.joins import with_declared
from harquel.core.domain.notes import ColumnNotes, Measure, Notes
from harquel.core.domain.person import Person
from harquel.core.domain.policy import Policy
from harquel.service.access.caller import Caller

from .live import LiveSource
from .models import StoredScan

SHOWN: Final = 50
"""Lines of a list that has no pages."""
_AWAY = ("This source cannot be asked right now.", "Ask again later, or tell a steward.")


def source_shape(source: LiveSource, caller: Caller) -> SourceLine:
    """One line, from what is known; a source that could not be scanned says so. Where it is, stewards see only."""
    steward = caller.may("steward")
    run, catalog = source.keeper.last, source.keeper.known()
    line = SourceLine(
        name=source.name, engine=source.engine.name, title=source.title, as_of=source.spec.as_of,
        model=source.core.model.profile.name, starters=list(source.starters), enabled=source.enabled,
        origin=source.spec.origin, where=source.engine.where() if steward else "",
        scanning=run is not None and run.state == "running",
    )  # fmt: skip
    sharing = source.core.policy.sharing
    if sharing is not None and caller.may("ask") and sharing.lets(caller.roles):
        line.shared_days = sharing.days
    sending = source.core.policy.sending
    if sending is not None and caller.may("ask") and (not sending.roles or set(sending.roles) & set(caller.roles)):
        line.destinations, line.recipients = list(sending.to), list(sending.mail)
    if catalog is not None:
        line.tables = len(source.core.describer.of(catalog, caller.asker).catalog.tables)
        line.scanned_at, line.version = catalog.scanned_at, catalog.number
    away = source.keeper.out_of_reach
    if away is not None:
        line.problem, line.hint = (str(away), away.hint) if steward else _AWAY
    elif run is not None and run.state == "failed":
        line.problem, line.hint = (run.problem, run.hint) if steward else _AWAY
    return line


def catalog_shape(source: LiveSource, catalog: Catalog, person: Person, whole: bool = False) -> CatalogShape:
    """What is exposed, with the notes; `whole` adds what is not, marked as such, for stewards."""
    policy, notes = source.core.policy, source.core.notes
    index = source.core.describer.of(catalog, person)
    seen = with_declared(catalog, notes) if whole else index.catalog
    return CatalogShape(
        source=source.name, fingerprint=catalog.fingerprint, scanned_at=catalog.scanned_at, version=catalog.number,
        tables=[table_shape(t, policy, notes) for t in seen.tables],
        measures=[measure_line(name, measure) for name, measure, _, _ in index.measures],
    )  # fmt: skip


def measure_line(name: str, measure: Measure) -> MeasureLine:
    """One measure."""
    return MeasureLine(
        name=name, text=measure.text.strip(), synonyms=list(measure.synonyms), unit=measure.unit, owner=measure.owner,
        version=measure.version,
    )  # fmt: skip


def table_shape(table: Table, policy: Policy, notes: Notes) -> CatalogTable:
    """One table."""
    about = notes.of(table.name)
    keys = [
        ForeignKeyShape(
            columns=list(k.columns), table=k.table, references=list(k.references), declared_by=k.declared_by
        )
        for k in table.foreign_keys
    ]
    return CatalogTable(
        name=table.name, kind=table.kind, text=about.text.strip(), row_count=table.row_count, foreign_keys=keys,
        columns=[column_shape(table, c, policy, about.columns.get(c.name) or ColumnNotes()) for c in table.columns],
        synonyms=list(about.synonyms), when=about.when, label=about.label, default_filter=about.default_filter,
        comment=table.comment, estimated=table.estimated, sampled=table.sampled, readable=table.readable,
        exposed=policy.shows(table.name, None), problem=table.problem,
        indexes=[f"{i.name} ({', '.join(i.columns)})" for i in table.indexes],
    )  # fmt: skip


def column_shape(table: Table, column: Column, policy: Policy, about: ColumnNotes) -> CatalogColumn:
    """One column."""
    return CatalogColumn(
        name=column.name, type=column.type, nullable=column.nullable, primary_key=column.primary_key,
        text=about.text, unit=about.unit, codes=about.codes, samples=list(column.samples),
        synonyms=list(about.synonyms), null_means=about.null_means, adds_up=about.adds_up, comment=column.comment,
        default=column.default, options=list(column.options), unique=column.unique, complete=column.complete,
        distinct=column.distinct, null_share=column.null_share, low=column.low, high=column.high,
        exposed=policy.shows(table.name, column.name),
        personal=policy.is_personal(table.name, column), proposed_personal=column.looks_personal,
    )  # fmt: skip


def scan_shape(found: StoredScan, caller: Caller) -> ScanShape:
    """One scan. How many tables there are, which one is looked at and what went wrong, stewards see only."""
    shape = ScanShape(
        id=found.pk, source=found.source, kind=found.kind, state=found.state, stage=found.stage,
        tables=found.tables, done=found.done, now=found.now, resumed=found.resumed, problem=found.problem,
        hint=found.hint, started_at=found.started_at, ended_at=found.ended_at,
    )  # fmt: skip
    if not caller.may("steward"):
        shape.tables, shape.done, shape.now = 0, 0, ""
        shape.problem, shape.hint = _AWAY if found.problem else ("", "")
    return shape
