"""Two versions of a catalog compared."""

from __future__ import annotations

from harquel.contract import CatalogDiff, ChangeShape
from harquel.contract.queries import DiffQuery
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.terms import Terms
from harquel.core.scanning import compare
from harquel.service.errors import ProblemError
from harquel.service.operations import Call, operation
from harquel.service.pages import whole_number

from ..catalogs import load
from ..finding import SOURCE_EVEN_OFF
from ..live import LiveSource
from ..models import CatalogVersion


@operation(
    "catalog.compare",
    takes=DiffQuery,
    gives=CatalogDiff,
    about=SOURCE_EVEN_OFF,
    rule="what the policy shows to whoever asks; to a steward all that it exposes",
)
def compare_versions(call: Call[DiffQuery, LiveSource]) -> CatalogDiff:
    """What came, went and changed of what is exposed; by default between the last two."""
    source, old, new = call.about, _number("old", call.asked.old), _number("new", call.asked.new)
    numbers = list(
        CatalogVersion.objects.filter(source=source.name).order_by("-number").values_list("number", flat=True)
    )  # fmt: skip
    if not numbers:
        raise ProblemError(409, "no-catalog", "problem-no-catalog", name=source.name)
    newer = new if new is not None else numbers[0]
    older = old if old is not None else next((n for n in numbers if n < newer), newer)
    policy, caller = source.core.policy, call.caller
    seen = policy.visible if caller.may("steward") else Terms(policy, caller.asker).visible
    one, other = (seen(_version(source.name, n)) for n in (older, newer))
    changes = [ChangeShape(kind=c.kind, table=c.table, column=c.column, said=c.said) for c in compare(one, other)]
    return CatalogDiff(source=source.name, old=older, new=newer, changes=changes)


def _number(name: str, text: str | None) -> int | None:
    number = whole_number(text) if text is not None else None
    if text is not None and number is None:
        raise ProblemError(422, "invalid-request", "problem-not-a-version", name=name)
    return number


def _version(name: str, number: int) -> Catalog:
    found = CatalogVersion.objects.filter(source=name, number=number).first()
    if found is None:
        raise ProblemError(404, "unknown-version", "problem-unknown-version", number=number, name=name)
    return load(found)
