"""One table of a catalog."""

from __future__ import annotations

from typing import Any

from harquel.contract import CatalogTable
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, Nothing, operation

from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..shapes import table_shape


@operation(
    "table.read", takes=Nothing, gives=CatalogTable, about=SOURCE_EVEN_OFF,
    rule="what the policy shows to whoever asks; every table with steward",
)  # fmt: skip
def read_table(call: Call[Nothing, LiveSource]) -> CatalogTable:
    """With all that is known of it; what is not exposed to stewards only."""
    return table_of(call)


def table_of(call: Call[Any, LiveSource]) -> CatalogTable:
    """The table that a call names, as the caller may see it. Raises ProblemError."""
    source, caller, table = call.about, call.caller, call.at["table"]
    catalog = source.keeper.known()
    if catalog is not None and not caller.may("steward"):
        catalog = source.core.describer.of(catalog, caller.asker).catalog
    found = catalog.table(table) if catalog is not None else None
    if found is None:
        raise ProblemError(404, "unknown-table", "problem-unknown-table", table=table, source=source.name)
    return table_shape(found, source.core.policy, source.core.notes)
