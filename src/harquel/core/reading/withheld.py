"""Who is asked for by name and may not be named is told by a key: the rows are the same, and nobody learns a name."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.reading.paths import NoControl, table_named, way_to
from harquel.core.reading.value import Reading

Withheld = Callable[[Table, Column], bool]


def by_keys(reading: Reading, catalog: Catalog, withheld: Withheld) -> Reading:
    """The same with the key of its table where a name is shown, or told apart by, that may not be seen."""
    named = [*(s for s in reading.show if isinstance(s, str)), *(p.column for p in reading.per if p.unit is None)]
    keys = _keys(named, reading.rows, catalog, withheld)
    if not keys:
        return reading

    def told(name: object) -> object:
        return keys.get(name, name) if isinstance(name, str) else name

    update = {
        "show": tuple(map(told, reading.show)),
        "per": tuple(p.model_copy(update={"column": told(p.column)}) for p in reading.per),
        "order": tuple(o.model_copy(update={"by": told(o.by)}) for o in reading.order),
    }
    return reading.model_copy(update=update)


def _keys(named: Iterable[str], rows: str, catalog: Catalog, withheld: Withheld) -> dict[str, str]:
    """For each of the names that may not be seen that of the key of its table, where there is one that may."""
    found = {}
    try:
        base = table_named(rows, catalog)
        for name in named:
            way = way_to(name, base, catalog)
            keys = [c for c in way.table.columns if c.primary_key]
            if withheld(way.table, way.column) and len(keys) == 1 and not withheld(way.table, keys[0]):
                owner, dot, _ = name.rpartition(".")
                found[name] = f"{owner}{dot}{keys[0].name}"
    except NoControl:
        return {}
    return found
