"""How much of a source is described."""

from __future__ import annotations

from collections import Counter

from harquel.contract import CoverageShape, JoinProposal, Undescribed
from harquel.core.curation import coverage
from harquel.core.domain.joins import propose_joins
from harquel.core.sql.names import resolve
from harquel.core.sql.tree import ParseFault, parse
from harquel.service.inquiries.models import StoredInquiry
from harquel.service.operations import Call, Nothing, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource

_LOOKED_BACK = 300


@operation("catalog.coverage", takes=Nothing, gives=CoverageShape, scope="steward", about=SOURCE_EVEN_OFF)
def read_coverage(call: Call[Nothing, LiveSource]) -> CoverageShape:
    """The share of described columns, those that questions touch without a word on them, joins to propose."""
    source = call.about
    catalog = source.keeper.known()
    if catalog is None:
        return CoverageShape(columns=0, described=0, share=0.0)
    visible = source.core.describer.of(catalog).catalog
    total, described = coverage(source.core.notes, visible)
    touched: Counter[tuple[str, str]] = Counter()
    latest = StoredInquiry.objects.filter(source=source.name, outcome="answered").order_by("-pk")[:_LOOKED_BACK]
    for record in latest.values_list("record", flat=True):
        try:
            tree = parse(record["answer"]["sql"], source.engine.name)[0]
        except (ParseFault, IndexError, KeyError, TypeError):
            continue
        for name_read, columns in resolve(tree, visible).reads.items():
            touched.update((name_read, c) for c in columns)
    notes = source.core.notes
    bare = []
    for (table_name, column_name), count in touched.most_common():
        table = visible.table(table_name)
        column = table.column(column_name) if table is not None else None
        if table is None or column is None or column.primary_key or column.comment:
            continue
        if any(column.name in k.columns for k in table.foreign_keys):
            continue
        if column.name not in notes.of(table.name).columns:
            bare.append(Undescribed(table=table.name, column=column.name, touched=count))
    proposals = [JoinProposal(**vars(p)) for p in propose_joins(visible)[:50]]
    return CoverageShape(
        columns=total, described=described, share=round(described / total, 3) if total else 1.0,
        most_touched=bare[:10], proposed_joins=proposals,
    )  # fmt: skip
