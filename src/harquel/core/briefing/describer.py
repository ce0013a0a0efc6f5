"""What is visible of the newest catalog, indexed; made once for each version and kept until the next."""

from __future__ import annotations

import threading

from harquel.core.briefing.index import CatalogIndex
from harquel.core.domain.catalog import Catalog
from harquel.core.domain.joins import with_declared
from harquel.core.domain.notes import Notes
from harquel.core.domain.person import NOBODY, Person
from harquel.core.domain.personal import marked_by_notes
from harquel.core.domain.policy import Policy, Treatment
from harquel.core.domain.terms import Terms


class Describer:
    """For one policy and one set of notes. For use by many threads."""

    def __init__(self, policy: Policy, notes: Notes) -> None:
        self.policy, self.notes = policy, notes
        self._lock = threading.Lock()
        self._catalog: Catalog | None = None
        self._made: dict[object, CatalogIndex] = {}
        self._marked: list[tuple[Catalog, Catalog]] = []
        self._treated: dict[bool, dict[tuple[str, str, bool], tuple[Treatment, str]]] = {False: {}, True: {}}

    def marked(self, catalog: Catalog) -> Catalog:
        """The catalog with what these notes say to be personal; the same one each time that it is asked for."""
        with self._lock:
            for plain, made in self._marked:
                if plain is catalog:
                    return made
            made = marked_by_notes(catalog, self.notes)
            # The newest one, and the bare one while it is being scanned.
            self._marked = [(catalog, made), *self._marked[:1]]
            return made

    def terms(self, person: Person = NOBODY) -> Terms:
        """What the policy comes to for a person; how columns are treated is found out once."""
        return Terms(self.policy, person, self._treated[bool(set(self.policy.personal.seen_by) & person.roles)])

    def of(self, catalog: Catalog, person: Person = NOBODY) -> CatalogIndex:
        """The index over what the policy leaves of a catalog for a person, declared joins included."""
        terms = self.terms(person)
        key = terms.signature()
        with self._lock:
            if self._catalog is not catalog:
                self._catalog, self._made = catalog, {}
            made = self._made.get(key)
            if made is None:
                visible = with_declared(terms.visible(catalog), self.notes)
                made = self._made[key] = CatalogIndex.build(visible, self.notes, self.policy)
            return made
