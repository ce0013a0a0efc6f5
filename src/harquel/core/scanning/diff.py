"""What came, went and changed between two versions of a catalog."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from harquel.core.domain.catalog import Catalog, Column, Table


@dataclass(frozen=True)
class Change:
    """One difference; `column` is empty when it is about the table as a whole."""

    kind: Literal["came", "went", "changed"]
    table: str
    column: str = ""
    said: str = ""


def compare(old: Catalog, new: Catalog) -> list[Change]:
    """Differences of structure, by table; rows and values do not count."""
    before, after = {t.name: t for t in old.tables}, {t.name: t for t in new.tables}
    changes: list[Change] = []
    for name in sorted(before.keys() | after.keys()):
        if name not in after:
            changes.append(Change("went", name, said=f"{before[name].kind} with {len(before[name].columns)} columns"))
        elif name not in before:
            changes.append(Change("came", name, said=f"{after[name].kind} with {len(after[name].columns)} columns"))
        elif before[name].structure() != after[name].structure():
            changes += _inside(before[name], after[name])
    return changes


def _inside(old: Table, new: Table) -> list[Change]:
    changes: list[Change] = []
    before, after = {c.name: c for c in old.columns}, {c.name: c for c in new.columns}
    for name in [*before, *(n for n in after if n not in before)]:
        if name not in after:
            changes.append(Change("went", new.name, name, before[name].type))
        elif name not in before:
            changes.append(Change("came", new.name, name, after[name].type))
        else:
            said = _column(before[name], after[name])
            if said:
                changes.append(Change("changed", new.name, name, said))
    for word, one, other in (
        ("kind", old.kind, new.kind),
        ("keys to other tables", _keys(old), _keys(new)),
        ("unique", str(old.unique), str(new.unique)),
        ("comment", old.comment, new.comment),
        ("readable by our account", str(old.readable), str(new.readable)),
    ):
        if one != other:
            changes.append(Change("changed", new.name, said=f"{word}: {one or 'none'} → {other or 'none'}"))
    if not changes:
        changes.append(Change("changed", new.name, said="checks or indexes"))
    return changes


def _column(old: Column, new: Column) -> str:
    words = (
        ("type", "type"), ("nullable", "may be null"), ("primary_key", "in the key"), ("default", "default"),
        ("comment", "comment"), ("options", "allowed values"), ("readable", "readable by our account"),
    )  # fmt: skip
    said = [
        f"{word}: {getattr(old, name) or 'no'} → {getattr(new, name) or 'no'}"
        for name, word in words
        if getattr(old, name) != getattr(new, name)
    ]
    return "; ".join(said)


def _keys(table: Table) -> str:
    return ", ".join(f"{'+'.join(k.columns)} → {k.table}" for k in table.foreign_keys)
