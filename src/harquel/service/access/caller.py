"""Who calls. Every way into the service (HTTP, later tools, chat, schedules) makes one of these, and no way decides
by itself what it may do.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from harquel.core.domain.person import Person as Asker

from .models import Token, asker


@dataclass(frozen=True)
class Caller:
    """A person by the token they call with; `token` and `person` are numbers of the records."""

    token: int
    person: int
    name: str
    scopes: frozenset[str]
    sources: frozenset[str]
    roles: tuple[str, ...]
    values: Mapping[str, Any]
    visiting: bool = False
    """Whether the token was made for a visit: it asks and reads, and makes nothing that lasts."""

    @classmethod
    def of(cls, token: Token) -> Caller:
        """Whoever holds this token."""
        return cls(
            token.pk, token.person_id, token.person.name, frozenset(token.scopes), frozenset(token.sources),
            tuple(token.roles), dict(token.values), token.parent_id is not None,
        )  # fmt: skip

    def may(self, scope: str) -> bool:
        """Whether the token has a scope."""
        return scope in self.scopes

    def sees(self, source: str) -> bool:
        """Whether the source exists for this caller."""
        return self.everywhere or source in self.sources

    @property
    def everywhere(self) -> bool:
        """Whether the token is for every source, those to come too."""
        return "*" in self.sources

    @property
    def asker(self) -> Asker:
        """In whose name the core answers, with the roles and values of the token."""
        return asker(self.name, list(self.roles), dict(self.values))
