"""What is visible of the newest catalog, indexed; made once for each version and kept until the next."""

from __future__ import annotations

import threading

from harquel.core.briefing.index import CatalogIndex
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.joins import with_declared
from harquel.core.domain.notes import Notes
from harquel.core.domain.person import NOBODY, Person
from harquel.core.domain.policy import Policy
from harquel.core.domain.terms import Terms


class Describer:
    """For one policy and one set of notes. For use by many threads."""

    def __init__(self, policy: Policy, notes: Notes) -> None:
        self.policy, self.notes = policy, notes
        self._lock = threading.Lock()
        self._catalog: Catalog | None = None
        self._made: dict[object, CatalogIndex] = {}

    def of(self, catalog: Catalog, person: Person = NOBODY) -> CatalogIndex:
        """The index over what the policy leaves of a catalog for a person, declared joins included."""
        terms = Terms(self.policy, person)
        key = terms.signature()
        with self._lock:
            if self._catalog is not catalog:
                self._catalog, self._made = catalog, {}
            made = self._made.get(key)
            if made is None:
                visible = with_declared(terms.visible(catalog), self.notes)
                made = self._made[key] = CatalogIndex.build(visible, self.notes, self.policy)
            return made
