"""What a source holds."""

from __future__ import annotations

from harquel.contract import CatalogShape
from harquel.contract.queries import CatalogQuery
from harquel.service.operations import Call, operation

from ..finding import SOURCE
from ..live import LiveSource
from ..shapes import catalog_shape


@operation(
    "catalog.read", takes=CatalogQuery, gives=CatalogShape, about=SOURCE,
    rule="what the policy shows to whoever asks; the whole with steward",
)  # fmt: skip
def read_catalog(call: Call[CatalogQuery, LiveSource]) -> CatalogShape:
    """Exposed tables and columns with their notes; with ?whole=1 and the scope steward the others too."""
    source, caller = call.about, call.caller
    whole = bool(call.asked.whole) and caller.may("steward")
    return catalog_shape(source, source.keeper.current(), caller.asker, whole)
