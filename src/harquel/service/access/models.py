"""Who may ask: people and their tokens."""

from __future__ import annotations

import unicodedata
from typing import Any

from django.db import models
from django.db.models import Q, QuerySet
from django.utils import timezone

from harquel.core.domain.person import Person as Asker


def asker(name: str, roles: list[str], values: dict[str, Any]) -> Asker:
    """A person as the core knows one."""
    return Asker(name, frozenset(roles), {k: tuple(v) if isinstance(v, list) else v for k, v in values.items()})


class Person(models.Model):
    """Somebody, or a program, in whose name inquiries are made."""

    name = models.CharField(max_length=80, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


def person_called(name: str) -> Person:
    """The person of that name, made when new. Runs inside the writer.

    Names that differ in case, in spaces or in how a letter is composed are the same: nobody becomes two people by
    writing their name otherwise.
    """
    written = " ".join(unicodedata.normalize("NFKC", name).split())
    wanted = written.casefold()
    same = (p for p in Person.objects.order_by("pk") if unicodedata.normalize("NFKC", p.name).casefold() == wanted)
    return next(same, None) or Person.objects.create(name=written)


class Token(models.Model):
    """A bearer token; only the SHA-256 of its secret is kept. `sources` is ["*"] or names. `parent` is the token that
    began a visit, for a short while: such a token ends with it.
    """

    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="tokens")
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    sources = models.JSONField(default=list)
    scopes = models.JSONField(default=list)
    roles = models.JSONField(default=list)
    values = models.JSONField(default=dict)
    created_at = models.DateTimeField(auto_now_add=True)
    last_used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)
    expires_at = models.DateTimeField(null=True)
    parent = models.ForeignKey("self", on_delete=models.PROTECT, null=True, related_name="visits")

    def __str__(self) -> str:
        return f"{self.name} of {self.person}"

    @classmethod
    def living(cls) -> QuerySet[Token]:
        """Those that are neither revoked nor at their end."""
        now = timezone.now()
        lasts, begun_by = Q(expires_at=None) | Q(expires_at__gt=now), Q(parent__expires_at=None)
        begun_by = Q(parent=None) | Q(begun_by | Q(parent__expires_at__gt=now), parent__revoked_at=None)
        return cls.objects.filter(lasts, begun_by, revoked_at=None)

    @property
    def is_authenticated(self) -> bool:
        """What REST framework asks of a user."""
        return True

    @property
    def asker(self) -> Asker:
        """In whose name the core answers, with the roles and values of this token."""
        return asker(self.person.name, self.roles, self.values)

    def sees(self, source: str) -> bool:
        """Whether the source exists for this token."""
        return "*" in self.sources or source in self.sources


class IdempotencyKey(models.Model):
    """A key that a caller sent with something to create, and what came of it; counts for 24 hours."""

    token = models.ForeignKey(Token, on_delete=models.CASCADE)
    key = models.CharField(max_length=200)
    body_digest = models.CharField(max_length=64)
    target = models.CharField(max_length=80)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["token", "key"], name="one_use_per_token")]

    def __str__(self) -> str:
        return self.key
