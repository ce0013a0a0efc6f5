"""Who may ask: people and their tokens."""

from __future__ import annotations

from django.db import models


class Person(models.Model):
    """Somebody, or a program, in whose name inquiries are made."""

    name = models.CharField(max_length=80, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class Token(models.Model):
    """A bearer token; only the SHA-256 of its secret is kept. `sources` is ["*"] or names."""

    person = models.ForeignKey(Person, on_delete=models.PROTECT, related_name="tokens")
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    sources = models.JSONField(default=list)
    scopes = models.JSONField(default=list)
    created_at = models.DateTimeField(auto_now_add=True)
    last_used_at = models.DateTimeField(null=True)
    revoked_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"{self.name} of {self.person}"

    @property
    def is_authenticated(self) -> bool:
        """What REST framework asks of a user."""
        return True

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
