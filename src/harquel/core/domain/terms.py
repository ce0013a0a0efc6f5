"""What a policy comes to for one person: which rows, which columns, and how those are treated."""

from __future__ import annotations

import json
from dataclasses import dataclass, field, replace
from fnmatch import fnmatchcase
from hashlib import sha256

from harquel.core.domain.catalog import Catalog, Column, Table
from harquel.core.domain.person import NOBODY, Person
from harquel.core.domain.policy import Policy, Treatment

TABLES = ("table", "")


@dataclass(frozen=True)
class Terms:
    """One policy seen by one person."""

    policy: Policy
    person: Person = NOBODY
    treated: dict[tuple[str, str, bool], tuple[Treatment, str]] = field(default_factory=dict, repr=False, compare=False)
    """What `treatment` has found; the same for all who have, or have not, a role of `personal.seen_by`."""

    def rules(self, table: str) -> list[tuple[int, str]]:
        """Place in the policy and condition of every row rule for a table that concerns this person."""
        return [
            (place, rule.where)
            for place, rule in enumerate(self.policy.rows)
            if fnmatchcase(table.lower(), rule.table.lower()) and self._concerns(rule.roles, rule.unless)
        ]

    def treatment(self, table: str, column: Column) -> tuple[Treatment, str]:
        """How a column is treated, and the policy line that says so."""
        # Every column of a catalog is asked about for every statement; nothing else of it decides.
        key = (table, column.name, column.looks_personal)
        found = self.treated.get(key)
        if found is None:
            found = self.treated[key] = self._treatment(table, column)
        return found

    def _treatment(self, table: str, column: Column) -> tuple[Treatment, str]:
        personal = self.policy.personal
        if set(personal.seen_by) & self.person.roles:
            return "show", "personal.seen_by"
        full = f"{table}.{column.name}".lower()
        for place, said in enumerate(personal.treatments):
            if fnmatchcase(full, said.column.lower()):
                return said.treatment, f"personal.treatments[{place}]"
        if personal.treatment != "show" and self.policy.is_personal(table, column):
            return personal.treatment, "personal.treatment"
        return "show", "expose"

    def may_restrict(self) -> bool:
        """Whether there can be a row rule or a mask for this person, whatever tables there are."""
        personal = self.policy.personal
        masks = "mask" in {personal.treatment, *(said.treatment for said in personal.treatments)}
        return masks or any(self._concerns(rule.roles, rule.unless) for rule in self.policy.rows)

    def restricts(self, catalog: Catalog) -> bool:
        """Whether there are rows or values behind the names that this person knows and may not see."""
        return any(self._touches(table) for table in catalog.tables)

    def visible(self, catalog: Catalog) -> Catalog:
        """What exists for this person. Nothing read ahead with the service's account stands beside what is restricted.

        A view shows what its tables hold: to somebody restricted it exists only with a row rule of its own.
        """
        shown = self.policy.visible(catalog)
        restricted = self.restricts(shown)
        kept = [
            self._bare(t, restricted) for t in shown.tables
            if not restricted or t.kind in TABLES or self.rules(t.name)
        ]  # fmt: skip
        if not restricted:
            return replace(shown, tables=tuple(kept))
        names = {t.name for t in kept}
        tables = tuple(replace(t, foreign_keys=tuple(k for k in t.foreign_keys if k.table in names)) for t in kept)
        return replace(shown, tables=tables)

    def sight(self, shown: Catalog) -> str:
        """A digest of what exists for this person in what they are shown of a catalog: tables, columns, which values of
        them and which rows; the same for the same, in any process.
        """
        made = [
            [t.name, t.kind, [[c.name, c.kind, *self.treatment(t.name, c)] for c in t.columns], self.rules(t.name)]
            for t in shown.tables
        ]
        whose = sorted((name, repr(value)) for name, value in self.person.values.items())
        return sha256(json.dumps([made, whose]).encode()).hexdigest()

    def signature(self) -> object:
        """The same for people for whom the same exists: what is made ahead for one serves the other."""
        rules = tuple(place for place, rule in enumerate(self.policy.rows) if self._concerns(rule.roles, rule.unless))
        return rules, bool(set(self.policy.personal.seen_by) & self.person.roles)

    def _concerns(self, roles: tuple[str, ...], unless: tuple[str, ...]) -> bool:
        return (not roles or bool(set(roles) & self.person.roles)) and not set(unless) & self.person.roles

    def _touches(self, table: Table) -> bool:
        return bool(self.rules(table.name)) or any(self.treatment(table.name, c)[0] == "mask" for c in table.columns)

    def _bare(self, table: Table, restricted: bool) -> Table:
        """Without counts and values of what this person sees only in part."""
        if self.rules(table.name) or (restricted and table.kind not in TABLES):
            columns = tuple(c.unprofiled() for c in table.columns)
            return replace(table, columns=columns, row_count=None)
        columns = tuple(c.unprofiled() if self.treatment(table.name, c)[0] != "show" else c for c in table.columns)
        return replace(table, columns=columns)
